"""People, workspaces and who may do what: sign-in, links, second factor, devices."""

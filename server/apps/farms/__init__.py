"""What a workspace has: fields, machines, seed lots."""

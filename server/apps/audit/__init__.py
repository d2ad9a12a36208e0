"""What was done that is no row with a history of its own: sign-ins, rights, files taken out, plans rewritten whole."""

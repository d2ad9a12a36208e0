"""The kernel of every record (ids of the client, versions, voiding) and the registry of kinds."""

"""How the installation stands: worker, disk, database, backups."""

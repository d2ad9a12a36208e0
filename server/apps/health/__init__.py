"""Whether the installation is sound: space, database, worker, files, devices."""

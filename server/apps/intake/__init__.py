"""Everything that comes in as a file: told by its content, bounded, and read in a process that can reach nothing else."""

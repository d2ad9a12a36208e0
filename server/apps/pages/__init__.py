"""One folder a screen: what it shows and its addresses, nothing else."""

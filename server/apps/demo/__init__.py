"""Made-up data: the demo and the practice workspace."""

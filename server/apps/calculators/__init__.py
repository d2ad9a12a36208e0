"""The calculators of the core, by themselves and without a trial."""

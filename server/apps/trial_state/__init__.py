"""The one read model of a trial: its plan and its records together, read once."""

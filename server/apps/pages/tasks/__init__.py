"""Tasks of a trial, and the hours they took."""

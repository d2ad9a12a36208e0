"""Merging what was entered twice: a farm, a field, a seed lot, a machine."""

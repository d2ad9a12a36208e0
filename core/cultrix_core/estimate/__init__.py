"""Yield before harvest, from its components."""

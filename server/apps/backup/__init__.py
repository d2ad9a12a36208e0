"""Copies of the whole installation, and the way back."""

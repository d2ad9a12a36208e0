"""Seed and settings: rates, spacing and what a rate means along a row."""

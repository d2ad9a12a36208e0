"""Yield from loads at standard moisture, and the questions an odd load raises."""

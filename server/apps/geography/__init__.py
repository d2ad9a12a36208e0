"""Frames of layouts: between longitude and latitude and the metres of a field."""

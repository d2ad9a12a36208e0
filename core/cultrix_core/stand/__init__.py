"""Counting plants: row lengths, areas, running precision."""

"""Laying trials out: randomisation, strips in the field, and how many blocks a question needs."""

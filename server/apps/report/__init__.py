"""Printed sheets."""

"""Trials in and out: CSV, workbook, GeoJSON, packages."""

"""Faults on purpose, against the real server and the real browser: ``make faults``. Too long for ``make test``."""

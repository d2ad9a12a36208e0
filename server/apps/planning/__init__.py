"""Judging a planned trial before a seed is sown: margin, rehearsal, pass card."""

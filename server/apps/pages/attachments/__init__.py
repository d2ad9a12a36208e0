"""Files kept with trials and lots."""

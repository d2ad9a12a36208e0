"""Files that are kept with a trial or a seed lot: a laboratory's sheet, a label, an invoice."""

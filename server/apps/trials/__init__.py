"""The plan of a trial: question, treatments, layout, seed, protocol; no records."""

"""Models, means, comparisons, letters and the call."""

"""Long work as a row that a worker takes: asking for it, doing it, stopping it."""

"""A trial as a Frictionless Data Package: written whole, and read back as the same trial."""

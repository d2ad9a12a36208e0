"""What is recorded on strips, by kind: stand, planting, season, samples, harvest, logs, events, weather."""

"""Price lists, scenarios and everything a verdict means in money."""

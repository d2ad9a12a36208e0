"""What every room uses and which knows none of them: quantities, formatting, errors, hooks, clocks of devices."""

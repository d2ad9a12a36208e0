"""Break-even, net return and what they rest on."""

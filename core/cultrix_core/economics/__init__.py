"""Break-even, budgets, machines, the economic optimum, sensitivity, risk and ranking, and what they rest on."""

"""What is computed from trials: verdict, economics, power, responses, experience of the farm."""

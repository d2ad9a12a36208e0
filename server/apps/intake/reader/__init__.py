"""The program that reads uploaded files. It runs in a child process of its own and knows neither Django nor the database."""

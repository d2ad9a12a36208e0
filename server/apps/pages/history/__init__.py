"""What was changed on a trial and its records: by whom, when, from what to what, and why."""

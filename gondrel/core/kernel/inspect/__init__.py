"""What the checks look at."""

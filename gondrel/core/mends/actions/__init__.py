"""One mend in each module; the planner finds them by itself."""

"""One check in each module; the runner finds them by itself."""

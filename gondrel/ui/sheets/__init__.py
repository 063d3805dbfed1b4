"""Station sheets: what is done at each of the six stops."""

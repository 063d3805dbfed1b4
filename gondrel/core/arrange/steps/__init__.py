"""Steps of an arrangement: what is done to what, so that it can be done again to another file."""

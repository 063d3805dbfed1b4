"""What is carried: the inventory of a model, the forecast before sending, the proof after it."""

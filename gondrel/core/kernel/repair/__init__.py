"""What mends are made of."""

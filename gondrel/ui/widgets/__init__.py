"""Small parts that every screen is made of."""

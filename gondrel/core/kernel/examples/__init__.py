"""Bodies with one flaw each, for examples of checks and for trying mends."""

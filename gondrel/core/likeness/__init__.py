"""Equal bodies: whether one is another moved or mirrored, and which of many are the same."""

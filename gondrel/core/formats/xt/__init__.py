"""Parasolid XT: text and neutral binary."""

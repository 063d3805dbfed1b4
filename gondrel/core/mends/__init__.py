"""Mends: repairs, each recorded with what it did."""

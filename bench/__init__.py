"""Benchmarks; see each of them."""

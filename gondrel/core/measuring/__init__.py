"""Measures of a model: over its bodies in their places."""

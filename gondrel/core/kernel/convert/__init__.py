"""Geometry and boundaries to and from the plain values of the model, for any format."""

"""Curves and surfaces: made, measured, intersected and projected on."""

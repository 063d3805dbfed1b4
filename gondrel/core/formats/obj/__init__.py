"""Wavefront OBJ: triangles with names, groups and materials."""

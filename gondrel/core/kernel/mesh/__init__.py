"""Triangles of bodies, and bodies of triangles."""

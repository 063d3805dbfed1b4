"""Faces, edges and vertices and how they hang together."""

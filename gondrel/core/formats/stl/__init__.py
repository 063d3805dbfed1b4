"""STL: triangles, text and binary."""

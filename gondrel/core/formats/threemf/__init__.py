"""3MF: triangles with unit, names, colours and components, read by the format's own library."""

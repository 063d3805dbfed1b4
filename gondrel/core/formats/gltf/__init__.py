"""glTF: triangles with names and colours, for who only needs to look."""

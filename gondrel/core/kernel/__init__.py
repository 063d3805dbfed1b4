"""The only package that imports the geometry kernel: thin typed functions over it."""

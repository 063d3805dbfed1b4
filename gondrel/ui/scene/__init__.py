"""The picture: the only place with VTK."""

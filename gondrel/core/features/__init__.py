"""Features of a dumb solid, found by its faces, their edges and on which side of them the material lies."""

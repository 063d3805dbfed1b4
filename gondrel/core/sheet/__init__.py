"""Two dimensions: hatching and outlines, and the files they go out as."""

"""Two models against one another: material added and removed, and what was moved."""

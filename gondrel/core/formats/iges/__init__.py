"""IGES: records of our own, geometry through the kernel."""

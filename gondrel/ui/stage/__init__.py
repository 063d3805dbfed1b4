"""The picture with all that lies over and around it."""

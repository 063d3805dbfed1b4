"""One module for each change of the tables, in their order."""

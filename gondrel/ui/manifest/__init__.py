"""The tree-table of items."""

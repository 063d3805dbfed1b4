"""Batches: many files sent and proved in worker processes, for the command line and the window."""

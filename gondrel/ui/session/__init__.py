"""What is open and what is done with it; no widgets."""

"""What the widgets show, computed without widgets."""

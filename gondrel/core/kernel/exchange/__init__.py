"""The kernel's own STEP and IGES: read as sent, written, held against the records."""

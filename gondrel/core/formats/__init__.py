"""One package per exchange format; see base.py for what a format declares."""

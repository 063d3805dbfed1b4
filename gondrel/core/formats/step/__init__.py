"""STEP (ISO 10303-21 files of AP203, AP214 and AP242)."""

"""Drawings: sheets of curves, profiles, and the files that carry them."""

import logging

_theirs = logging.getLogger("ezdxf")
_theirs.addHandler(logging.NullHandler())
_theirs.propagate = False  # what it puts right stands in the notes of a sheet

"""Mesh bodies as a binary STL file."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from gondrel.core.formats.meshes import Piece
from gondrel.core.formats.settings import SendSettings

__all__ = ["write"]

_LAYOUT = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("attribute", "<u2")])


def write(pieces: Sequence[Piece], settings: SendSettings, name: str) -> dict[str, bytes]:
    """All pieces as one solid, in the unit of the settings; the files by their names.

    STL says no unit, so it is named in the 80 free bytes, which readers pass over.
    """
    parts = []
    for piece in pieces:
        records = np.zeros(len(piece.facets.triangles), _LAYOUT)
        records["normal"] = piece.facets.normals
        records["corners"] = piece.facets.corners / settings.unit.mm
        parts.append(records)
    records = np.concatenate(parts) if parts else np.zeros(0, _LAYOUT)
    said = f"{settings.system}, in {settings.unit.key}".encode("ascii", "replace")[:80]
    return {name: said.ljust(80, b"\0") + len(records).to_bytes(4, "little") + records.tobytes()}

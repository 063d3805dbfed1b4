"""Zip archives that are looked at before they are unpacked."""

from __future__ import annotations

import zipfile

from gondrel.core.errors import LimitExceeded

__all__ = ["check_size"]

_ALWAYS, _MOST = 200_000_000, 8_000_000_000
_RATIO = 100
"""Text of meshes shrinks to a tenth; a hundredth is what only repetition gives."""


def check_size(archive: zipfile.ZipFile, path: str) -> None:
    """Refuse an archive that says it swells beyond all measure, without unpacking it.

    Raises:
        LimitExceeded: with the sizes.
    """
    whole = sum(member.file_size for member in archive.infolist())
    packed = sum(member.compress_size for member in archive.infolist())
    if whole > _MOST or (whole > _ALWAYS and whole > _RATIO * max(packed, 1)):
        raise LimitExceeded(
            f"its {packed:,} bytes swell to {whole:,}, more than any model needs", file=path
        )

"""Packed files that are looked at before, or while, they are unpacked."""

from __future__ import annotations

import zipfile

from gondrel.core.errors import LimitExceeded

__all__ = ["check_size", "check_swelling"]

_ALWAYS, _MOST = 200_000_000, 8_000_000_000
_RATIO = 100
"""Text of meshes shrinks to a tenth; a hundredth is what only repetition gives."""


def check_swelling(packed: int, plain: int, path: str, *, ratio: int = _RATIO) -> None:
    """Refuse what swells beyond all measure.

    Args:
        packed, plain: bytes before and after unpacking, or so far; ratio: the most where plain is large.

    Raises:
        LimitExceeded: with the sizes.
    """
    if plain > _MOST or (plain > _ALWAYS and plain > ratio * max(packed, 1)):
        raise LimitExceeded(
            f"its {packed:,} bytes swell to {plain:,}, more than any model needs", file=path
        )


def check_size(archive: zipfile.ZipFile, path: str) -> None:
    """Refuse an archive that says it swells beyond all measure, without unpacking it.

    Raises:
        LimitExceeded: with the sizes.
    """
    members = archive.infolist()
    check_swelling(sum(m.compress_size for m in members), sum(m.file_size for m in members), path)

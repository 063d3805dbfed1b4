"""Files that were packed by gzip, seen as what they hold.

Source: RFC 1952, the two bytes a gzip file begins with. STEP files are often sent so (.stp.gz, .stpz).
"""

from __future__ import annotations

import gzip
import os
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from gondrel.core.errors import GondrelError, MalformedFile
from gondrel.core.work.archives import check_swelling
from gondrel.core.work.files import private_folder

__all__ = ["is_packed", "plain_name", "unpacked"]

_MAGIC = b"\x1f\x8b"
_CHUNK = 1 << 20
_RATIO = 200
"""How often more than packed a file may be; text of exact shapes shrinks to a tenth."""


def is_packed(path: str | os.PathLike[str]) -> bool:
    """Whether a file begins as gzip files do; False when it can't be opened."""
    try:
        with Path(path).open("rb") as stream:
            return stream.read(2) == _MAGIC
    except OSError:
        return False


def plain_name(path: str) -> str:
    """The name of a file without the ending that says it is packed."""
    name = Path(path).name
    if name.lower().endswith(".gz"):
        return name[:-3]
    return f"{name[:-1]}" if name.lower().endswith((".stpz", ".stepz")) else name


@contextmanager
def unpacked(path: str | Path) -> Iterator[str]:
    """The file itself, or the path of what a packed one holds, for as long as it is needed.

    Raises:
        MalformedFile: when it is cut off or damaged, carrying where. LimitExceeded: when it swells beyond
            all measure. Errors raised within that name the unpacked file name the packed one instead.
    """
    path = str(path)
    if not is_packed(path):
        yield path
        return
    with private_folder() as folder:
        plain = folder / (plain_name(path) or "plain")
        _unpack(Path(path), plain)
        try:
            yield str(plain)
        except GondrelError as error:
            if error.file == str(plain):
                error.file = path
            raise


def _unpack(packed: Path, plain: Path) -> None:
    size, done = packed.stat().st_size, 0
    try:
        with gzip.open(packed) as source, plain.open("wb") as out:
            while chunk := source.read(_CHUNK):
                done += len(chunk)
                check_swelling(size, done, str(packed), ratio=_RATIO)
                out.write(chunk)
    except (OSError, EOFError, zlib.error) as error:
        raise MalformedFile(
            f"packed by gzip, and damaged or cut off: {error}",
            file=str(packed),
            where=f"after byte {done:,}",
        ) from error

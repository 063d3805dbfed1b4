"""Where files are that another file refers to, whatever their format."""

from __future__ import annotations

import os
from collections.abc import Iterator, Sequence
from pathlib import Path, PureWindowsPath

from gondrel.core.formats.registry import by_suffix

__all__ = ["find_file", "leads_outside"]

_MOST_FILES = 5000
_MOST_OPENED = 300


def find_file(name: str, base: Path, search: Sequence[str], wanted: Sequence[str]) -> Path | None:
    """Where an external file is, None when it is nowhere. What a name leads to outside the folder of the
    file and the folders to search is never read.

    By its name it is looked for beside the file that refers to it and in the folders below, then in
    the folders to search and below; there, failing that, by its content: a file with a product of a
    wanted number or name.

    Args:
        base: folder of the file that refers to it; search: further folders; wanted: numbers and names
            of the product it should hold.
    """
    plain = PureWindowsPath(name).as_posix()
    short = PureWindowsPath(name).name
    folders = [base, *(Path(folder) for folder in search)]
    for candidate in (base / plain, base / short):
        if _is_file(candidate) and _is_inside(candidate, folders):
            return candidate.resolve()
    for folder in folders:
        for path in _below(folder):
            if path.name == short:
                return path.resolve()
    texts = {text for text in wanted if text}
    for folder in folders[1:]:
        opened = 0
        for path in _below(folder):
            known = by_suffix(path.name)
            if known is not None and known.names_products is not None and opened < _MOST_OPENED:
                opened += 1
                if texts & known.names_products(str(path)):
                    return path.resolve()
    return None


def leads_outside(name: str, base: Path, search: Sequence[str]) -> bool:
    """Whether a file's name leads out of the folder of the file that names it, to where nobody said to
    look."""
    named = base / PureWindowsPath(name).as_posix()
    return not _is_inside(named, [base, *(Path(folder) for folder in search)])


def _is_file(path: Path) -> bool:
    try:
        return path.is_file()
    except (OSError, ValueError):
        return False  # a name that is none


def _is_inside(path: Path, folders: Sequence[Path]) -> bool:
    try:
        real = path.resolve()
        return any(real.is_relative_to(folder.resolve()) for folder in folders)
    except (OSError, ValueError):
        return False


def _below(folder: Path) -> Iterator[Path]:
    """The files in a folder and below it, nearest first, not more than 5000."""
    count = 0
    level = [folder]
    while level:
        deeper = []
        for at in level:
            try:
                entries = sorted(os.scandir(at), key=lambda entry: entry.name)
            except OSError:
                continue
            for entry in entries:
                if entry.is_dir(follow_symlinks=False):
                    deeper.append(Path(entry.path))
                elif entry.is_file():
                    count += 1
                    yield Path(entry.path)
                if count >= _MOST_FILES:
                    return
        level = deeper

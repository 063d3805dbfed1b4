"""The table of formats, filled from the sub-packages of this one."""

from __future__ import annotations

import pkgutil
from functools import cache
from importlib import import_module
from pathlib import Path

from gondrel.core import formats
from gondrel.core.errors import InputError, UnknownFormat, UsageError
from gondrel.core.formats.base import Format, Target
from gondrel.core.work.files import checked_file

__all__ = ["all_formats", "all_suffixes", "by_content", "by_suffix", "target"]

_HEAD = 4096


@cache
def all_formats() -> tuple[Format, ...]:
    """Every format, in order of key. Raises ValueError when two claim a key or a suffix."""
    known: list[Format] = []
    for module in sorted(pkgutil.iter_modules(formats.__path__), key=lambda m: m.name):
        if module.ispkg:
            declared = import_module(f"{formats.__name__}.{module.name}.format").FORMAT
            clash = [
                f.key for f in known if f.key == declared.key or set(f.suffixes) & set(declared.suffixes)
            ]
            if clash:
                raise ValueError(f"formats {clash[0]} and {declared.key} claim the same key or suffix")
            known.append(declared)
    return tuple(known)


def by_content(path: str) -> Format:
    """The format of a file: content decides, the suffix does not.

    Raises:
        InputError: when it can't be opened or is empty.
        UnknownFormat: when no format recognises it.
    """
    checked_file(path)
    try:
        with Path(path).open("rb") as stream:
            head = stream.read(_HEAD)
    except OSError as error:
        raise InputError(f"can't be opened: {error.strerror}", file=path) from error
    if not head:
        raise InputError("the file is empty", file=path, where="byte 0")
    stripped = head.lstrip(b"\xef\xbb\xbf \t\r\n")
    for known in all_formats():
        if any(stripped.startswith(start) for start in known.starts):
            return known
    for known in all_formats():
        if known.recognises is not None and known.recognises(head, path):
            return known
    titles = ", ".join(f.title for f in all_formats())
    if Path(path).suffix.casefold() == ".dxf":
        raise UnknownFormat(
            "a drawing, not a model", file=path, where="byte 0",
            hint="gondrel profile makes a part of it",
        )  # fmt: skip
    raise UnknownFormat(
        f"not a file Gondrel can read (it starts with {bytes(head[:12])!r})",
        file=path,
        where="byte 0",
        hint=f"known formats: {titles}",
    )


def all_suffixes() -> tuple[str, ...]:
    """The endings of every format's files, with a point before them, in the order of their targets."""
    ordered = sorted(all_formats(), key=lambda f: f.order)
    return tuple(suffix for known in ordered for suffix in known.suffixes)


def by_suffix(name: str) -> Format | None:
    """The format whose ending a name has, None when none has it."""
    suffix = Path(name).suffix.lower()
    return next((known for known in all_formats() if suffix in known.suffixes), None)


def target(kind: str) -> tuple[Format, Target]:
    """The format and target of a kind. Raises UsageError for an unknown one."""
    kinds = []
    for known in sorted(all_formats(), key=lambda f: f.order):
        for candidate in known.targets:
            if candidate.kind == kind:
                return known, candidate
            kinds.append(candidate.kind)
    raise UsageError(f"unknown kind {kind!r}", hint=f"one of {', '.join(kinds)}")

"""Where a command reads from and writes to: files, or the standard streams by a hyphen."""

from __future__ import annotations

import os
import shutil
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from gondrel.core.errors import InputError, UsageError
from gondrel.core.work.files import check_places, private_folder

__all__ = ["STREAM", "check_output", "given_files", "taken_output"]

STREAM = "-"
"""What stands for standard input and standard output."""


@contextmanager
def given_files(files: list[str]) -> Iterator[list[str]]:
    """Paths to read, standard input put into a file for as long as it is needed.

    Raises:
        UsageError: when none is given, or standard input twice. InputError: when one can't be read.
    """
    if not files:
        raise UsageError("a FILE is required", hint="a hyphen stands for standard input")
    if files.count(STREAM) > 1:
        raise UsageError("standard input can be read only once")
    with private_folder() as folder:
        paths = []
        for file in files:
            if file == STREAM:
                path = folder / "standard input"
                with path.open("wb") as out:
                    shutil.copyfileobj(sys.stdin.buffer, out)
                if not path.stat().st_size:
                    raise InputError("standard input is empty", file=STREAM)
                paths.append(str(path))
            else:
                paths.append(file)
        yield paths


def check_output(out: str, sources: list[str], *, force: bool) -> None:
    """See that a file can be put where it is wanted, before anything is read.

    Raises:
        InputError: when it is a file received. OutputError: when the place is taken or no place.
    """
    if out == STREAM:
        return
    for source in sources:
        if os.path.realpath(out) == os.path.realpath(source):
            raise InputError("the file to send must not be the file received", file=out)
    check_places([Path(out)], force=force)


@contextmanager
def taken_output(out: str, suffix: str) -> Iterator[str]:
    """The path to write to; for standard output a file that is copied there when all went well."""
    if out != STREAM:
        yield out
        return
    with private_folder() as folder:
        path = folder / f"standard output{suffix}"
        yield str(path)
        if path.exists():
            with path.open("rb") as source:
                shutil.copyfileobj(source, sys.stdout.buffer)
            sys.stdout.buffer.flush()

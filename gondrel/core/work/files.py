"""Files on disk: which may be read, where work in progress lies, and how files come into their places.

Nothing is left behind: folders of work in progress are removed on every way out, and those of a process
that was killed by the next one that starts. Files appear whole or not at all, all of a set or none.
"""

from __future__ import annotations

import hashlib
import os
import secrets
import shutil
import stat
import tempfile
from collections.abc import Iterable, Iterator, Mapping
from contextlib import contextmanager, suppress
from pathlib import Path

import platformdirs

from gondrel.core.errors import InputError, LimitExceeded, OutputExists, WriteFailed

__all__ = [
    "cache_folder",
    "check_places",
    "checked_file",
    "config_folder",
    "deliver",
    "private_folder",
    "sha256_of",
    "sha256_of_file",
    "state_folder",
    "sweep",
]

_NAME = "gondrel"
_PREFIX = ".gondrel-"


def state_folder() -> Path:
    """Where things are kept between runs (autosaves, the demo, what is in progress), made when missing.

    Source: the XDG base directory specification, XDG_STATE_HOME.
    """
    folder = platformdirs.user_state_path(_NAME)
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    return folder


def config_folder() -> Path:
    """Where the user's choices are kept; not made when missing.

    Source: the XDG base directory specification, XDG_CONFIG_HOME.
    """
    return platformdirs.user_config_path(_NAME)


def cache_folder() -> Path:
    """Where what can be made again is kept; not made when missing.

    Source: the XDG base directory specification, XDG_CACHE_HOME.
    """
    return platformdirs.user_cache_path(_NAME)


def checked_file(path: str | Path, most: int = 0) -> Path:
    """A path that leads to a regular file; pipes and devices may never end.

    Args:
        most: bytes it may have, 0 for any number.

    Raises:
        InputError: when it is none or can't be looked at. LimitExceeded: when it is larger.
    """
    try:
        status = os.stat(path)
    except (OSError, ValueError) as error:
        reason = error.strerror if isinstance(error, OSError) else str(error)
        raise InputError(f"can't be opened: {reason}", file=str(path)) from error
    if stat.S_ISDIR(status.st_mode):
        raise InputError("can't be opened: Is a directory", file=str(path))
    if not stat.S_ISREG(status.st_mode):
        raise InputError("is a pipe or a device, not a file", file=str(path))
    if most and status.st_size > most:
        raise LimitExceeded(
            f"has {status.st_size:,} bytes; no more than {most:,} are read of such a file", file=str(path)
        )
    return Path(path)


# --- work in progress ----------------------------------------------------------------------------


@contextmanager
def private_folder(parent: Path | None = None) -> Iterator[Path]:
    """A folder of its own for work in progress, readable by nobody else, and gone afterwards.

    Args:
        parent: where it lies; the system's temporary folder when not given.

    Raises:
        WriteFailed: when it can't be made.
    """
    folder = Path(parent or tempfile.gettempdir()) / f"{_PREFIX}{secrets.token_hex(8)}"
    mark = _mark(folder)  # first, so that a kill in between leaves nothing that is not noted
    try:
        folder.mkdir(mode=0o700)
    except OSError as error:
        if mark is not None:
            mark.unlink(missing_ok=True)
        raise WriteFailed(
            f"the folder can't be written to: {error.strerror}", file=str(parent or "")
        ) from error
    try:
        yield folder
    finally:
        shutil.rmtree(folder, ignore_errors=True)
        if mark is not None:
            mark.unlink(missing_ok=True)


def _marks() -> Path:
    folder = state_folder() / "working"
    folder.mkdir(exist_ok=True, mode=0o700)
    return folder


def _mark(folder: Path) -> Path | None:
    """Note a folder as that of this process, for whoever starts after it was killed."""
    try:
        mark = _marks() / f"{os.getpid()}-{_began(os.getpid())}-{folder.name}"
        mark.write_text(str(folder), "utf-8", "surrogateescape")
    except OSError:
        return None  # it is removed on every way out but a kill
    return mark


def _began(pid: int) -> str:
    """When a process began, in the kernel's ticks; empty when there is none, or one that has ended and
    nobody has asked how.

    Source: proc(5), fields 3 (the state, Z or X of those that ended) and 22 of /proc/PID/stat; the name in
    brackets may hold blanks.
    """
    with suppress(OSError, IndexError):
        said = Path(f"/proc/{pid}/stat").read_text("utf-8", "replace").rpartition(")")[2].split()
        return "" if said[0] in ("Z", "X") else said[19]
    return ""


def sweep() -> int:
    """Remove what killed processes left behind; how many folders."""
    count = 0
    with suppress(OSError):
        for mark in _marks().iterdir():
            pid, _, rest = mark.name.partition("-")
            if not pid.isdigit() or _began(int(pid)) == rest.partition("-")[0]:
                continue
            folder = Path(mark.read_text("utf-8", "surrogateescape"))
            if folder.name.startswith(_PREFIX) and not folder.is_symlink():
                shutil.rmtree(folder, ignore_errors=True)
                count += 1
            mark.unlink(missing_ok=True)
    return count


# --- places --------------------------------------------------------------------------------------


def check_places(places: Iterable[Path], *, force: bool) -> None:
    """See that files can be put into their places, before any work is done for them.

    Raises:
        OutputExists: when one is there already and must not be replaced.
        WriteFailed: when one is a folder, a pipe or a device, or its folder is not there.
    """
    taken = []
    for place in places:
        real = Path(os.path.realpath(place))
        try:
            if not real.parent.is_dir():
                raise WriteFailed("can't be written: there is no such folder", file=str(place))
            status = real.stat() if real.exists() else None
        except (OSError, ValueError) as error:
            reason = error.strerror if isinstance(error, OSError) else str(error)
            raise WriteFailed(f"can't be written: {reason}", file=str(place)) from error
        if status is None:
            continue
        if stat.S_ISDIR(status.st_mode):
            raise WriteFailed("is a folder", file=str(place))
        if not stat.S_ISREG(status.st_mode):
            raise WriteFailed("is a pipe or a device; a file can't take its place", file=str(place))
        taken.append(place)
    if taken and not force:
        more = f" (and {len(taken) - 1} more files of this send)" if len(taken) > 1 else ""
        raise OutputExists(
            f"is there already{more}", file=str(taken[0]), hint="choose another name, or say --force"
        )


def deliver(files: Mapping[Path, Path], *, private: bool = False) -> None:
    """Put finished files into their places, all of them or, as far as the disk allows, none.

    A link is followed; the mode of a file that is replaced stays, and a new one gets that of the umask.

    Args:
        files: where each finished file lies, by the place it goes to; both on one disk.
        private: whether nobody else may read them.

    Raises:
        WriteFailed: when the disk refuses.
    """
    places = {Path(os.path.realpath(place)): source for place, source in files.items()}
    try:
        for place, source in places.items():
            os.chmod(source, 0o600 if private else _mode_for(place))
            _sync(source)
        for place, source in places.items():
            os.replace(source, place)
        for folder in {place.parent for place in places}:
            _sync(folder)
    except OSError as error:
        first = next(iter(files))
        raise WriteFailed(f"can't be put in place: {error.strerror}", file=str(first)) from error


def _mode_for(place: Path) -> int:
    with suppress(OSError):
        return stat.S_IMODE(place.stat().st_mode)
    mask = os.umask(0)
    os.umask(mask)
    return 0o666 & ~mask


def _sync(path: Path) -> None:
    handle = os.open(path, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def sha256_of(path: str | Path) -> str:
    """The SHA-256 of a file. Raises InputError when it can't be read."""
    digest = hashlib.sha256()
    try:
        with Path(path).open("rb") as stream:
            while block := stream.read(_BLOCK):
                digest.update(block)
    except OSError as error:
        raise InputError(f"can't be read: {error.strerror}", file=str(path)) from error
    return digest.hexdigest()


def sha256_of_file(path: str | Path) -> str:
    """The SHA-256 of a file, "" when it can't be read."""
    try:
        return sha256_of(path)
    except InputError:
        return ""


_BLOCK = 1 << 20

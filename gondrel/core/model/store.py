"""The store of blobs on disk, addressed by content, with caches keyed by the same hash."""

from __future__ import annotations

import hashlib
import os
from pathlib import Path

from gondrel.core.errors import WriteFailed
from gondrel.core.work.files import check_places, deliver, private_folder

__all__ = ["BlobStore", "write_whole"]


def write_whole(path: Path, data: bytes, *, private: bool = False) -> None:
    """Write a file so that it appears whole or not at all; an old file stays until then.

    Args:
        private: whether nobody else may read it.

    Raises:
        WriteFailed: when the folder can't be written to, or a device or a pipe stands in the place.
    """
    check_places([path], force=True)
    with private_folder(Path(os.path.realpath(path)).parent) as folder:
        finished = folder / "file"
        try:
            finished.write_bytes(data)
        except OSError as error:
            raise WriteFailed(f"writing failed: {error.strerror}", file=str(path)) from error
        deliver({path: finished}, private=private)


class BlobStore:
    """A folder of blobs named by their SHA-256, shared by the application and its workers."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        folder.mkdir(parents=True, exist_ok=True)

    def put(self, data: bytes) -> str:
        """Keep the bytes; returns their hash. Raises WriteFailed."""
        key = hashlib.sha256(data).hexdigest()
        self.put_as(key, "brep", data)
        return key

    def get(self, key: str) -> bytes:
        """The bytes with this hash. Raises KeyError when they are not here."""
        return self.get_as(key, "brep")

    def has(self, key: str, kind: str = "brep") -> bool:
        """Whether a blob, or a thing of another kind derived from it, is here."""
        return os.path.exists(self._path(key, kind))

    def size_of(self, key: str, kind: str = "brep") -> int:
        """How many bytes a blob, or a thing derived from it, has. Raises KeyError when it is not here."""
        try:
            return os.stat(self._path(key, kind)).st_size
        except FileNotFoundError:
            raise KeyError(key) from None

    def put_as(self, key: str, kind: str, data: bytes, *, anew: bool = False) -> None:
        """Keep something derived from a blob (mesh, facts) under the blob's hash.

        Args:
            anew: whether it takes the place of what is there; else that stays.
        """
        if self.has(key, kind) and not anew:
            return
        path, temporary = self._path(key, kind), self._path(f".{key}", f"{kind}.{os.getpid()}")
        try:
            with open(temporary, "wb") as stream:
                stream.write(data)
            os.replace(temporary, path)
        except OSError as error:
            Path(temporary).unlink(missing_ok=True)
            raise WriteFailed(f"keeping a body failed: {error.strerror}", file=path) from error

    def adopt(self, key: str, kind: str, file: Path) -> None:
        """Take a finished file of the same disk in as a blob, or as something derived from one.

        Raises:
            WriteFailed: when the disk refuses.
        """
        try:
            os.replace(file, self._path(key, kind))
        except OSError as error:
            raise WriteFailed(f"keeping a body failed: {error.strerror}", file=str(self.folder)) from error

    def get_as(self, key: str, kind: str) -> bytes:
        """Something derived from a blob. Raises KeyError when it is not here."""
        try:
            with open(self._path(key, kind), "rb") as stream:
                return stream.read()
        except FileNotFoundError:
            raise KeyError(key) from None

    def _path(self, key: str, kind: str) -> str:
        return f"{self.folder}/{key}.{kind}"  # thousands are asked for: no Path objects

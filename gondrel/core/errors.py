"""Every error Gondrel raises on purpose.

GondrelError
    InputError          the file can't be read
        UnknownFormat       no format knows this content
        MalformedFile       broken at a known place
        UnsupportedContent  sound, but not something we read
        LimitExceeded       larger or slower than the limit set for the job
    OutputError         the file can't be written
        CannotExpress       the target can't hold these items
        WriteFailed         the disk or the kernel refused
        OutputExists        another file stands in its place
    KernelError         the geometry kernel
        KernelRefused       it raised or returned a failure
        KernelCrashed       its process died
    UsageError          the call itself is wrong
"""

from __future__ import annotations

from typing import Any

__all__ = [
    "CannotExpress",
    "GondrelError",
    "InputError",
    "KernelCrashed",
    "KernelError",
    "KernelRefused",
    "LimitExceeded",
    "MalformedFile",
    "OutputError",
    "OutputExists",
    "UnknownFormat",
    "UnsupportedContent",
    "UsageError",
    "WriteFailed",
]


class GondrelError(Exception):
    """Something the user can be told in one sentence: what, where and why.

    Args:
        message: what was found, one sentence.
        file: the file it was found in, if any.
        where: the place in it (line, record, body), if known.
        hint: what to do about it, if anything.
    """

    code = "error"

    def __init__(self, message: str, *, file: str = "", where: str = "", hint: str = "") -> None:
        super().__init__(message)
        self.message = message
        self.file = file
        self.where = where
        self.hint = hint

    def __str__(self) -> str:
        parts = [self.file, self.where, self.message]
        text = ": ".join(part for part in parts if part)
        return f"{text} ({self.hint})" if self.hint else text

    def __reduce__(self) -> tuple[Any, ...]:
        return (_rebuild, (type(self), self.message, self.file, self.where, self.hint))

    def as_dict(self) -> dict[str, str]:
        """The error in the shape of the command line contract."""
        text = f"{self.message} ({self.hint})" if self.hint else self.message
        return {"code": self.code, "message": text, "file": self.file, "where": self.where}


def _rebuild(kind: type[GondrelError], message: str, file: str, where: str, hint: str) -> GondrelError:
    return kind(message, file=file, where=where, hint=hint)


class InputError(GondrelError):
    """A file can't be read."""

    code = "input"


class UnknownFormat(InputError):
    """No registered format recognises the content."""

    code = "unknown-format"


class MalformedFile(InputError):
    """The file breaks its own format's rules at a known place."""

    code = "malformed-file"


class UnsupportedContent(InputError):
    """The file is sound but holds what we do not read."""

    code = "unsupported-content"


class LimitExceeded(InputError):
    """A job took more time or memory than it was allowed."""

    code = "limit-exceeded"


class OutputError(GondrelError):
    """A file can't be written."""

    code = "output"


class CannotExpress(OutputError):
    """The target format can't hold something that must not be dropped."""

    code = "cannot-express"


class WriteFailed(OutputError):
    """Writing was refused by the disk or the kernel."""

    code = "write-failed"


class OutputExists(OutputError):
    """A file is there already that must not be replaced unasked."""

    code = "output-exists"


class KernelError(GondrelError):
    """The geometry kernel could not do its part."""

    code = "kernel"


class KernelRefused(KernelError):
    """The kernel raised an exception or reported failure."""

    code = "kernel-refused"


class KernelCrashed(KernelError):
    """The process with the kernel in it died."""

    code = "kernel-crashed"


class UsageError(GondrelError):
    """The call itself is wrong: an unknown option, kind or query."""

    code = "usage"

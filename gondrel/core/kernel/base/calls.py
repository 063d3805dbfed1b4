"""Entering the kernel safely: its exceptions become ours, its chatter is kept off standard output."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from OCP.Message import Message, Message_Gravity

from gondrel.core.errors import GondrelError, KernelRefused

__all__ = ["is_kernel_error", "kernel_call", "quiet"]

_PLAIN = (RuntimeError, ValueError, ArithmeticError)
"""What the binding raises of Python's own where the kernel fails; its other errors are of its module."""

_BINDING = ("incompatible function arguments", "incompatible constructor arguments", "NoneType")
"""How the binding says that it was given none of what it takes: a file's null curve or surface."""


def is_kernel_error(error: Exception) -> bool:
    """Whether an exception came out of the kernel or its binding, and not of a mistake of ours."""
    if isinstance(error, TypeError):
        return any(said in str(error) for said in _BINDING)
    return isinstance(error, _PLAIN) or type(error).__module__.startswith("OCP")


@contextmanager
def kernel_call(doing: str, file: str = "") -> Iterator[None]:
    """Turn an exception that comes out of the kernel or its binding into KernelRefused; our own mistakes
    stay what they are.

    Args:
        doing: what is being done to what, for the message.

    Raises:
        KernelRefused: when the kernel raised; its own words are kept.
    """
    try:
        yield
    except GondrelError:
        raise
    except Exception as error:
        if not is_kernel_error(error):
            raise
        own = type(error).__module__.startswith("OCP")
        reason = f"{type(error).__name__} {error}".strip() if own else str(error)
        raise KernelRefused(f"{doing} failed: {reason}", file=file) from error


def quiet() -> None:
    """Keep the kernel's transfer statistics off its printers; failures still show."""
    printers = Message.DefaultMessenger_s().Printers()
    for index in range(1, printers.Length() + 1):
        printers.Value(index).SetTraceLevel(Message_Gravity.Message_Fail)

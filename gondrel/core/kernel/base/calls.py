"""Entering the kernel safely: its exceptions become ours, its chatter is kept off standard output."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from OCP.Message import Message, Message_Gravity

from gondrel.core.errors import GondrelError, KernelRefused

__all__ = ["kernel_call", "quiet"]


@contextmanager
def kernel_call(doing: str, file: str = "") -> Iterator[None]:
    """Turn any exception that comes out of the kernel binding into KernelRefused.

    Args:
        doing: what is being done to what, for the message.

    Raises:
        KernelRefused: when the kernel raised; its own words are kept.
    """
    try:
        yield
    except GondrelError:
        raise
    except (TypeError, ValueError, ArithmeticError, RuntimeError) as error:
        raise KernelRefused(f"{doing} failed: {error}", file=file) from error
    except Exception as error:
        if not type(error).__module__.startswith("OCP"):
            raise
        reason = f"{type(error).__name__} {error}".strip()
        raise KernelRefused(f"{doing} failed: {reason}", file=file) from error


def quiet() -> None:
    """Keep the kernel's transfer statistics off its printers; failures still show."""
    printers = Message.DefaultMessenger_s().Printers()
    for index in range(1, printers.Length() + 1):
        printers.Value(index).SetTraceLevel(Message_Gravity.Message_Fail)

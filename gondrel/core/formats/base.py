"""What a format declares: how it is recognised, who reads and writes it, what it can carry."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from importlib import import_module
from typing import Any

from gondrel.core.model.carries import Carries

__all__ = ["Format", "Target"]


@dataclass(frozen=True, slots=True)
class Target:
    """One thing to send as: a kind of the command line contract.

    Args:
        unit: key of the length unit where the format knows only one; empty where it is chosen.
        note: what it keeps, in a few words.
        forms: how an assembly can go, where there is a choice.
    """

    kind: str
    title: str
    suffix: str
    carries: Carries
    schema: str = ""
    unit: str = ""
    note: str = ""
    forms: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Format:
    """A format's declaration. Functions are named by text and loaded on first use.

    Args:
        key: the contract's word for the format.
        starts: byte strings the content may start with.
        card, read, write: "module:function".
        foresee: the same, for what becomes of single bodies; empty when the target's table says it all.
        recognise: the same, takes the first bytes of a file that starts with none of those.
        takes_settings: whether read takes the settings of a receive.
        is_mesh: whether it holds triangles only; then write takes pieces of a mesh.
        never: what no file of this format brings, in words.
    """

    key: str
    title: str
    suffixes: tuple[str, ...]
    starts: tuple[bytes, ...]
    card: str
    read: str
    write: str
    targets: tuple[Target, ...] = field(default=())
    foresee: str = ""
    recognise: str = ""
    takes_settings: bool = False
    is_mesh: bool = False
    never: str = ""

    def function(self, role: str) -> Callable[..., Any]:
        """The function behind card, read, write, foresee or recognise."""
        module, _, name = getattr(self, role).partition(":")
        found: Callable[..., Any] = getattr(import_module(module), name)
        return found

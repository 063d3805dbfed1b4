"""What a format declares: how it is recognised, who reads and writes it, what it can carry."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from importlib import import_module
from typing import Any

__all__ = ["THINGS", "Carries", "Format", "Target"]

THINGS = (
    "bodies", "geometry", "units", "structure", "placement", "names", "numbers", "revisions",
    "colours", "layers", "materials", "metadata", "validation",
)  # fmt: skip
"""The carried things, in the order of the ledger (names of the command line contract)."""


@dataclass(frozen=True, slots=True)
class Carries:
    """What a target can hold; the forecast is computed from it.

    Args:
        things: the things it can hold at all.
        reasons: for each thing it can't hold, why, in one sentence.
        metadata_kinds: kinds of metadata values that keep their type.
        assembly_colours: whether a colour can be put on an occurrence of an assembly.
        occurrence_metadata: whether an occurrence can have metadata of its own.
    """

    things: frozenset[str]
    reasons: tuple[tuple[str, str], ...] = ()
    metadata_kinds: frozenset[str] = frozenset()
    assembly_colours: bool = False
    occurrence_metadata: bool = False


@dataclass(frozen=True, slots=True)
class Target:
    """One thing to send as: a kind of the command line contract."""

    kind: str
    title: str
    suffix: str
    carries: Carries
    schema: str = ""


@dataclass(frozen=True, slots=True)
class Format:
    """A format's declaration. Functions are named by text and loaded on first use.

    Args:
        key: the contract's word for the format.
        starts: byte strings the content may start with.
        card, read, write: "module:function".
    """

    key: str
    title: str
    suffixes: tuple[str, ...]
    starts: tuple[bytes, ...]
    card: str
    read: str
    write: str
    targets: tuple[Target, ...] = field(default=())

    def function(self, role: str) -> Callable[..., Any]:
        """The function behind card, read or write."""
        module, _, name = getattr(self, role).partition(":")
        found: Callable[..., Any] = getattr(import_module(module), name)
        return found

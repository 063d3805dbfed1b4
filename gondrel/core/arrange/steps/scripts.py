"""Steps as the text of a steps file; without what runs them, for those that only keep them."""

from __future__ import annotations

import tomllib
from collections.abc import Iterable, Sequence
from typing import Any

import tomli_w

__all__ = ["VERSION", "joined", "run_again", "script", "standing"]

_AGAIN = "# all steps so far, run again on a changed file\n"

VERSION = 1
"""The version of steps files that is written and read."""


def script(steps: Sequence[dict[str, Any]]) -> str:
    """A steps file of steps as plain values."""
    return "\n".join([f"version = {VERSION}\n", *map(_table, steps)])


def _table(step: dict[str, Any]) -> str:
    """A step as a table of its own, what is in it as tables beneath it, so that it is easily changed by
    hand."""
    plain = {key: value for key, value in step.items() if not isinstance(value, dict)}
    tables = {key: value for key, value in step.items() if isinstance(value, dict)}
    beneath = tomli_w.dumps({"step": tables}).removeprefix("[step]\n") if tables else ""
    return f"[[step]]\n{tomli_w.dumps(plain)}{beneath.lstrip()}"


def joined(scripts: Iterable[str]) -> str:
    """One steps file of the steps of several. Raises ValueError when one is no TOML."""
    return script([step for text in scripts if text for step in tomllib.loads(text)["step"]])


def run_again(scripts: Iterable[str]) -> str:
    """One steps file of several that were run again, in whose place it stands in the history."""
    return _AGAIN + joined(scripts)


def standing(scripts: Sequence[str]) -> tuple[tuple[str, ...], int]:
    """The steps that made a model what it is, and how many edits were none.

    Args:
        scripts: of each edit since it was received, empty for one that is no step. Those before the steps
            were last run again are in that.
    """
    last = max((n for n, text in enumerate(scripts) if text.startswith(_AGAIN)), default=0)
    return tuple(text for text in scripts[last:] if text), sum(not text for text in scripts[last:])

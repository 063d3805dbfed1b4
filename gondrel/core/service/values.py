"""Settings given as text: KEY=VALUE pairs of the command line and of recipes."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from difflib import get_close_matches

from gondrel.core.errors import UsageError

__all__ = ["check_keys", "choice_of", "flag_of", "number_of", "whole_of", "words_of"]


def check_keys(values: Iterable[str], known: Sequence[str]) -> None:
    """Raises UsageError for a key that is not known."""
    for key in values:
        if key not in known:
            near = get_close_matches(key, known, 1)
            guess = f"; did you mean {near[0]!r}?" if near else ""
            raise UsageError(f"unknown setting {key!r}{guess}", hint=f"one of {', '.join(sorted(known))}")


def number_of(values: Mapping[str, str], key: str, default: float, *, least: float) -> float:
    """A number. Raises UsageError when it is none or below the least."""
    text = values.get(key, "")
    if not text:
        return default
    try:
        number = float(text)
    except ValueError:
        number = math.nan
    if not number >= least or math.isinf(number):
        raise UsageError(f"{key} must be a number of {least:g} or more (got {text!r})")
    return number


def whole_of(values: Mapping[str, str], key: str) -> int:
    """A whole number. Raises UsageError when it is none."""
    text = values.get(key, "")
    if not text.isdigit():
        raise UsageError(f"{key} must be a whole number (got {text!r})")
    return int(text)


def choice_of(values: Mapping[str, str], key: str, choices: Sequence[str]) -> str:
    """One of some words, the first by default. Raises UsageError for another."""
    text = values.get(key, "") or choices[0]
    if text not in choices:
        raise UsageError(f"unknown {key} {text!r}", hint=f"one of {', '.join(c for c in choices if c)}")
    return text


def flag_of(values: Mapping[str, str], key: str, default: bool) -> bool:
    """Yes or no. Raises UsageError for another word."""
    text = values.get(key, "").lower()
    if text in ("", "yes", "no", "on", "off", "true", "false"):
        return default if not text else text in ("yes", "on", "true")
    raise UsageError(f"{key} must be yes or no (got {text!r})")


def words_of(values: Mapping[str, str], key: str) -> tuple[str, ...] | None:
    """Words between commas, None when the key is not given."""
    if key not in values:
        return None
    return tuple(word.strip() for word in values[key].split(",") if word.strip())

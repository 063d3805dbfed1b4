"""What revisions are called: a major part by letters or numbers, and a minor number."""

from __future__ import annotations

import re
from enum import StrEnum

from gondrel.core.errors import UsageError

__all__ = ["Scheme", "first_major", "following_major", "name_of", "revision_parts"]

_REVISION = re.compile(r"([A-Za-z]{1,8}|\d{1,8})(?:[.\-_ ]?(\d{1,9}))?")
_LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
_UNCLEAR = "IOQSXZ"


class Scheme(StrEnum):
    """How major revisions follow one another: all letters; letters but I, O, Q, S, X and Z, which are read
    as something else (ASME Y14.35, from memory); numbers."""

    LETTERS = "letters"
    CLEAR_LETTERS = "clear letters"
    NUMBERS = "numbers"


def _letters(scheme: Scheme) -> str:
    if scheme is Scheme.LETTERS:
        return _LETTERS
    return "".join(letter for letter in _LETTERS if letter not in _UNCLEAR)


def first_major(scheme: Scheme) -> str:
    """The major revision that an item begins with."""
    return "1" if scheme is Scheme.NUMBERS else "A"


def following_major(major: str, scheme: Scheme = Scheme.LETTERS) -> str:
    """The major revision after one: B after A, AA after Z; 2 after 1."""
    if major.isdigit():
        return str(int(major) + 1)
    known = _letters(scheme)
    letters = list(major.upper())
    for place in range(len(letters) - 1, -1, -1):
        later = [letter for letter in known if letter > letters[place]]
        if later:
            letters[place] = later[0]
            return "".join(letters)
        letters[place] = known[0]
    return known[0] + "".join(letters)


def revision_parts(text: str, scheme: Scheme = Scheme.LETTERS) -> tuple[str, int] | None:
    """Major and minor of a revision as files have it: B is B.1; None for another form than the scheme's."""
    found = _REVISION.fullmatch(text.strip())
    if found is None or found[2] == "0" or found[1].isdigit() is not (scheme is Scheme.NUMBERS):
        return None
    major = found[1].upper()
    if major.isdigit():
        major = str(int(major))
    return (major, int(found[2] or 1)) if major != "0" else None


def name_of(text: str) -> tuple[str, tuple[str, int] | None]:
    """The number and revision of NUMBER/REVISION, by letters or numbers; without one None for the latest.

    Raises:
        UsageError: for no number, or a revision of another form.
    """
    number, slash, revision = text.rpartition("/")
    if not slash:
        number = revision
    parts = None
    if slash:
        parts = revision_parts(revision) or revision_parts(revision, Scheme.NUMBERS)
    if not number.strip() or (slash and parts is None):
        raise UsageError(f"a revision is called NUMBER/REVISION, as PG-101/B.2 (got {text!r})")
    return number.strip(), parts

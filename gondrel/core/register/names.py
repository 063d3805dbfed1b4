"""What revisions are called: letters and numbers, one after the other."""

from __future__ import annotations

import re

from gondrel.core.errors import UsageError

__all__ = ["following_major", "name_of", "revision_parts"]

_REVISION = re.compile(r"([A-Za-z]{1,8})(?:[.\-_ ]?(\d{1,9}))?")


def following_major(major: str) -> str:
    """The letters after some: B after A, AA after Z."""
    letters = list(major.upper())
    for place in range(len(letters) - 1, -1, -1):
        if letters[place] != "Z":
            letters[place] = chr(ord(letters[place]) + 1)
            return "".join(letters)
        letters[place] = "A"
    return "A" + "".join(letters)


def revision_parts(text: str) -> tuple[str, int] | None:
    """Major and minor of a revision as files have it: B is B.1; None for another form."""
    found = _REVISION.fullmatch(text.strip())
    if found is None or found[2] == "0":
        return None
    return found[1].upper(), int(found[2] or 1)


def name_of(text: str) -> tuple[str, tuple[str, int] | None]:
    """The number and revision of NUMBER/REVISION; without a revision None for the latest.

    Raises:
        UsageError: for no number, or a revision of another form.
    """
    number, slash, revision = text.rpartition("/")
    if not slash:
        number = revision
    parts = revision_parts(revision) if slash else None
    if not number.strip() or (slash and parts is None):
        raise UsageError(f"a revision is called NUMBER/REVISION, as PG-101/B.2 (got {text!r})")
    return number.strip(), parts

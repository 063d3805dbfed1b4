"""One thing at a time is kept open."""

from __future__ import annotations

import pytest

from gondrel.core.work.kept_open import KeptOpen


def test_it_is_made_once_and_closed_for_the_next() -> None:
    closed: list[str] = []
    kept = KeptOpen(closed.append)
    assert kept.of("a", lambda: "first") == "first"
    assert kept.of("a", lambda: "never") == "first" and not closed
    assert kept.of("b", lambda: "second") == "second" and closed == ["first"]


def test_what_could_not_be_made_is_not_kept() -> None:
    kept = KeptOpen(lambda _: None)

    def fails() -> str:
        raise OSError("gone")

    with pytest.raises(OSError):
        kept.of("a", fails)
    assert kept.of("a", lambda: "there") == "there"

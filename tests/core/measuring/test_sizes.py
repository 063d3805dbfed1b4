"""Terms of a filter that ask for sizes, and the parts of a made assembly that fit them."""

from __future__ import annotations

from pathlib import Path

import pytest

from gondrel.core.errors import UsageError
from gondrel.core.model.sizes import is_size_term, size_term
from gondrel.core.model.store import BlobStore
from gondrel.core.service.queries import asked_for, of_size
from tests.builders import small_assembly


@pytest.mark.parametrize(
    ("word", "low", "high"),
    [
        ("bore:32", 31.995, 32.005), ("bore:31-33", 31, 33), ("BORE:6.5mm", 6.495, 6.505),
        ("lighter:10g", 0, 0.010), ("heavier:2kg", 2, float("inf")), ("closer:0.1", 0, 0.1),
    ],
)  # fmt: skip
def test_terms(word, low, high) -> None:
    term = size_term(word)
    assert is_size_term(word) and (term.low, term.high) == pytest.approx((low, high))


@pytest.mark.parametrize(
    "word", ["bore:", "bore:x", "lighter:ten", "closer:-1", "bore:1-2-3", "heavier:1lb"]
)
def test_what_makes_no_sense_is_said(word) -> None:
    with pytest.raises(UsageError, match="asks for no size"):
        size_term(word)


@pytest.mark.slow
def test_parts_of_a_size(store_folder: str) -> None:
    """The plate has a bore of 12 mm and weighs 60 x 40 x 10 mm less that, of steel: 179.5 g."""
    model = small_assembly(BlobStore(Path(store_folder)))
    words = ("bore:12", "bore:11", "lighter:0.18kg", "lighter:0.17kg", "closer:5")
    fits = of_size(model, words, store_folder)
    assert fits["bore:12"] == {"plate"} and fits["bore:11"] == frozenset()
    assert fits["lighter:0.18kg"] == {"plate"} and fits["lighter:0.17kg"] == frozenset()
    assert "plate" in fits["closer:5"]
    assert asked_for(model, ["bore:12", "Pin"], store_folder) == ["plate", "pin"]
    with pytest.raises(UsageError, match="no item fits"):
        asked_for(model, ["bore:99"], store_folder)

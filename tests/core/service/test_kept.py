"""Files of the configuration: strict as a whole, or field by field with what is usual for the rest."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

import pytest

from gondrel.core.errors import MalformedFile
from gondrel.core.service.kept import keep, kept, kept_fields


@dataclass(frozen=True)
class Card:
    name: str = "none"
    count: int = 3
    values: Mapping[str, tuple[str, ...]] | None = None


def test_what_is_kept_comes_back(tmp_path: Path) -> None:
    path = tmp_path / "deep" / "cards.json"
    card = Card("a", 4, {"k": ("x", "y")})
    assert kept(path, Card) is None
    keep(path, card)
    assert kept(path, Card) == card


@pytest.mark.parametrize("text", ["", "[", "[]", '{"name": 3}', '{"count": "3"}', '{"values": [1]}'])
def test_another_shape_is_an_error_with_the_file(tmp_path: Path, text: str) -> None:
    path = tmp_path / "cards.json"
    path.write_text(text)
    with pytest.raises(MalformedFile, match="the file of cards makes no sense") as caught:
        kept(path, Card)
    assert caught.value.file == str(path)


def test_broken_fields_are_as_usual_and_the_others_stay(tmp_path: Path) -> None:
    path = tmp_path / "cards.json"
    path.write_text(json.dumps({"name": "b", "count": True, "later": 1}))
    assert kept_fields(path, Card(count=7)) == Card("b", 7)

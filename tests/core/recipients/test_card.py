"""Recipient cards: read, changed with their comments kept, refused; questions asked and answered."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest

from gondrel.core.errors import MalformedFile, UsageError
from gondrel.core.recipients.card import (
    Card,
    Keeps,
    Limits,
    Reads,
    Required,
    card_named,
    cards,
    cards_folder,
    read_card,
    save_card,
    without_card,
)
from gondrel.core.recipients.questions import QUESTIONS, answered, questions_html, questions_text
from gondrel.core.recipients.stand_ins.keys import CARD_OF
from gondrel.core.recipients.stand_ins.known import STAND_INS


def test_shipped_cards_are_there_one_for_each_stand_in() -> None:
    assert {each.key: each.card for each in STAND_INS} == CARD_OF
    assert {card.key for card in cards()} == set(CARD_OF.values())
    with pytest.raises(UsageError, match="no recipient card"):
        card_named("nobody")


def test_a_card_is_changed_and_its_comments_stay() -> None:
    card = card_named("bell-founder")
    changed = replace(
        card, name="Amberly and Daughter", limits=replace(card.limits, tolerance=0.02),
        keeps=replace(card.keeps, layers=False), required=(Required("Heat", r"\d+"),),
    )  # fmt: skip
    path = save_card(changed)
    assert path.parent == cards_folder() and card_named("bell-founder") == changed
    text = path.read_text("utf-8")
    assert "# A founder who casts from solids." in text and "# mm" in text and "layers = false" in text
    save_card(replace(changed, remarks="Ring first"))
    assert "# Only the shape is cast" in path.read_text("utf-8")
    without_card("bell-founder")
    assert card_named("bell-founder") == card


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("key = 3\nname = 'A'", "makes no sense"),
        ("key = 'a'\nname = 'A'\nspeed = 2", "makes no sense"),
        ("key = 'A b'\nname = 'A'", "small letters"),
        ("key = 'a'\nname = ''", "needs a name"),
        ("key = 'a'\nname = 'A'\n[keeps]\ncolours = 'red'", "colours are kept to"),
        ("key = 'a'\nname = 'A'\n[[required]]\nkey = 'x'\npattern = '('", "makes no sense"),
        ("key = ", "can't be read as TOML"),
    ],
)
def test_what_makes_no_sense_is_refused(tmp_path: Path, text: str, said: str) -> None:
    path = tmp_path / "a.card.toml"
    path.write_text(text)
    with pytest.raises(MalformedFile, match=said):
        read_card(path)


def test_the_form_is_filled_in_and_read_back() -> None:
    said = {
        "name": "Weir & Sluice, works", "system": "An old one", "kinds": "xt-text, step-ap203",
        "unit": "inch", "trusts_unit": "no", "structure": "no", "colours": "bodies", "name_length": "24",
        "tolerance": "0.05 mm", "indifferent": "colours, layers", "closed": "yes", "metadata": "no",
        "cavities": "no", "degree": "9", "xt": "14000", "external": "yes",
    }  # fmt: skip
    wanted = Card(
        "weir-sluice-works", "Weir & Sluice, works", "An old one", indifferent=("colours", "layers"),
        reads=Reads(("xt-text", "step-ap203"), True),
        keeps=Keeps(structure=False, colours="bodies", name_length=24, materials=False, metadata=False),
        limits=Limits("inch", False, 0.05, True, degree=9, cavities=False, xt=14000),
    )  # fmt: skip
    text, page = questions_text(), questions_html()
    for question in QUESTIONS:
        answer = said.get(question.key, question.usual)
        text = text.replace(f"[{question.key}] {question.usual}", f"[{question.key}] {answer}")
        html = answer.replace("&", "&amp;")
        page = page.replace(
            f"name='{question.key}' value='{question.usual}'", f"name='{question.key}' value=\"{html}\""
        )
    assert answered(text) == wanted and answered(page) == wanted
    for broken in (
        "nothing",
        text.replace("0.05 mm", "narrow"),
        text.replace("[closed] yes", "[closed] often"),
    ):
        with pytest.raises(MalformedFile):
            answered(broken)

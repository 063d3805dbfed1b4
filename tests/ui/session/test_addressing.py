"""Recipients in the window: chosen, compared, rehearsed, their cards changed, sendings logged."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog

from gondrel.core.recipients.card import card_named, save_card
from gondrel.ui.presenters.cells import EXPECTED, forecast_cells
from gondrel.ui.session.stations import Station
from tests.conftest import choose_in, settle, wait_until

LEFT = Qt.MouseButton.LeftButton

pytestmark = [pytest.mark.window, pytest.mark.slow]


def opened(window: Any, path: str) -> Any:
    session = window.session
    session.open_file(path)
    wait_until(lambda: session.model is not None and not session.tasks.running)
    session.go(Station.SEND)
    settle(session)
    return session


def choose(window: Any, key: str) -> None:
    session, sheet = window.session, window.send_sheet
    before = session.forecast
    sheet.recipient.setCurrentIndex(sheet.recipient.findData(key))
    wait_until(lambda: session.forecast is not before and not session.tasks.running)
    settle(session)


def test_the_forecast_is_that_of_the_recipient_and_quiet_where_they_do_not_mind(window, as1: str) -> None:
    session = opened(window, as1)
    assert session.forecast.fate("structure") == "carried"
    choose(window, "rigger")
    assert session.forecast.fate("structure") == "lost" and "Thorsgate" in session.forecast.target
    cells = {c.thing: c for c in forecast_cells(session.forecast, session.addressing.indifferent)}
    assert cells["structure"].verdict == "lost" and cells["metadata"].verdict == f"lost{EXPECTED}"
    choose(window, "gear-cutter")
    assert session.choices.kind == "xt-text", "they read nothing else"
    choose(window, "")
    assert session.forecast.fate("structure") == "carried"


def test_formats_are_compared_and_one_is_taken(window, as1: str) -> None:
    session = opened(window, as1)
    choose(window, "pattern-maker")
    QTest.mouseClick(window.send_sheet.compare, LEFT)
    page = window.pages["formats"]
    wait_until(lambda: bool(session.addressing.choices) and page.tree.topLevelItemCount() > 4)
    kinds = [c.kind for c in session.addressing.choices]
    assert set(kinds[:5]) == set(card_named("pattern-maker").reads.kinds)
    assert all(c.bytes is None or c.bytes > 1000 for c in session.addressing.choices)
    assert not session.addressing.choices[-1].is_read
    page.tree.setCurrentItem(page.tree.topLevelItem(1))
    QTest.mouseClick(page.take, LEFT)
    assert session.choices.kind == kinds[1]


def test_a_rehearsal_is_held_to_the_card(window, as1: str) -> None:
    session = opened(window, as1)
    choose(window, "rigger")
    QTest.mouseClick(window.send_sheet.rehearse, LEFT)
    page = window.pages["rehearsal"]
    assert page.which.currentData() == "flat"
    QTest.mouseClick(page.go, LEFT)
    wait_until(lambda: session.addressing.rehearsal is not None and not session.tasks.running)
    assert "agrees with it" in page.verdict.text() and "loose bodies" in page.complaints.toPlainText()
    assert window.stage.shown_comparison is session.addressing.beside, "what it made stands beside ours"
    assert session.addressing.beside.captions[1] == "AT THEIRS"
    page.which.setCurrentIndex(page.which.findData("strict"))
    session.addressing.rehearsal = None
    QTest.mouseClick(page.go, LEFT)
    wait_until(lambda: session.addressing.rehearsal is not None and not session.tasks.running)
    assert "fared otherwise than the card" in page.verdict.text()


def test_cards_are_changed_duplicated_and_answered(window, as1: str, tmp_path: Path, monkeypatch) -> None:
    opened(window, as1)
    QTest.mouseClick(window.send_sheet.cards, LEFT)
    page = window.pages["cards"]
    names = [page.list.item(i).text() for i in range(page.list.count())]
    page.list.setCurrentRow(names.index("Thorsgate Riggers"))
    line = page.lines["name_length"]
    line.selectAll()
    QTest.keyClicks(line, "12")
    QTest.mouseClick(page.save, LEFT)
    assert card_named("rigger").keeps.name_length == 12
    page.duplicate()
    assert card_named("rigger-2").name == "Thorsgate Riggers 2"
    form = tmp_path / "q.html"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(form), ""))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(form), ""))
    page.ask()
    form.write_text(
        form.read_text("utf-8").replace("name='name' value=''", "name='name' value='Lower Lock'"), "utf-8"
    )
    page.answers()
    assert card_named("lower-lock").name == "Lower Lock"
    sheet = window.send_sheet
    assert sheet.recipient.findData("lower-lock") > 0 and sheet.recipient.findData("rigger-2") > 0


def test_what_was_sent_is_logged_with_what_changed_since(window, as1: str, tmp_path: Path) -> None:
    session = opened(window, as1)
    choose(window, "lock-keeper")
    session.send(str(tmp_path / "out.stp"))
    wait_until(lambda: session.sent is not None and not session.tasks.running)
    (entry,) = session.crossing.log
    assert (entry.to, entry.card, entry.kind) == ("Ostrey Lock Office", "lock-keeper", "step-ap203")
    assert len(entry.files[0][1]) == 64 and entry.unannounced == 0
    window.show_page("sendings")
    tree = window.pages["sendings"].tree
    assert tree.topLevelItem(0).text(4) == "nothing"
    part = next(p for p in session.model.products if p.bodies)
    session.select(((frozenset({f"product:{part.id}"}),),))
    step = {"do": "rename", "items": {"name": part.name}, "pattern": "New"}
    session.arranging.do(step, keep=True, ids=(part.id,))
    settle(session)
    assert tree.topLevelItem(0).text(4) == "1 item"
    choose(window, "")
    page = window.pages["sendings"]
    QTest.mouseClick(page.changed_only, LEFT)
    settle(session)
    assert session.addressing.card.key == "lock-keeper" and session.choices.kind == "step-ap203"
    assert [p.name for p in session.going().products] == ["New"], "what changed, alone"


def test_only_what_is_selected_is_sent(window, as1: str, tmp_path: Path) -> None:
    session = opened(window, as1)
    rods = next(p for p in session.model.products if p.name == "rod-assembly")
    session.select(((frozenset({f"product:{rods.id}"}),),))
    before = session.forecast
    choose_in(window.send_sheet.form.scope, "selected")
    wait_until(lambda: session.forecast is not before and not session.tasks.running)
    assert sum(e.item.weight for e in session.forecast.of("bodies")) == 2
    session.send(str(tmp_path / "rods.stp"))
    wait_until(lambda: session.sent is not None and not session.tasks.running)
    assert session.sent.proof.verdict == "carried"
    assert {p.name for p in session.sent.returned.products} == {"rod-assembly", "rod", "nut"}


def test_only_what_fits_is_sent_in_linked_files_and_kept_as_a_recipe(
    window, as1: str, tmp_path: Path
) -> None:
    session = opened(window, as1)
    form = window.send_sheet.form
    choose_in(form.scope, "fits")
    QTest.keyClicks(form.query, "*bracket-assembly*")
    QTest.keyClick(form.query, Qt.Key.Key_Return)
    choose_in(form.form, "linked")
    wait_until(lambda: "one file for each part" in session.forecast.target and not session.tasks.running)
    assert sum(e.item.weight for e in session.forecast.of("bodies")) == 3
    window.send_sheet.path.setText(str(tmp_path / "bracket.stp"))
    QTest.mouseClick(window.send_sheet.main, LEFT)
    wait_until(lambda: session.sent is not None and not session.tasks.running)
    assert session.sent.proof.verdict == "carried" and len(session.sent.companions) == 3
    assert {p.name for p in tmp_path.glob("*.stp")} >= {
        "bracket.stp",
        "nut.stp",
        "bolt.stp",
        "l-bracket.stp",
    }

    wait_until(lambda: session.station is Station.PROVE)
    session.go(Station.SEND)
    settle(session)
    form.recipe.keep_as("Linked")
    choose_in(form.form, "structure")
    form.recipe.box.setCurrentIndex(form.recipe.box.findData("Linked"))
    form.recipe.box.activated.emit(form.recipe.box.currentIndex())
    assert session.choices.form == "linked"
    assert dict(session.settings.now.sending)["files"] == "linked", "what was sent last is remembered"
    card = card_named("rigger")
    save_card(replace(card, key="linker", name="Linker", recipe="Linked", reads=replace(
        card.reads, external=True)))  # fmt: skip
    choose_in(form.form, "structure")
    window.send_sheet.list_cards()
    choose(window, "linker")
    assert session.choices.form == "linked", "the recipe on their card"
    choose(window, "bell-founder")
    assert session.choices.form == "structure", "they take no linked files"


def test_checks_take_their_limits_from_the_card(window, as1: str) -> None:
    session = opened(window, as1)
    card = card_named("bell-founder")
    save_card(replace(card, limits=replace(card.limits, tolerance=0.002, degree=7)))
    choose(window, "bell-founder")
    limits = session.checking.limits()
    assert (limits.gap, limits.tolerance, limits.degree) == (0.002, 0.002, 7)
    choose(window, "")
    assert session.checking.limits().degree == 15

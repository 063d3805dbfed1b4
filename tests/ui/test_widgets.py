"""Single widgets in a real window: keyboard, quiet parts, item model, work strip, legend."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import pytest
from PySide6.QtCore import QModelIndex, QPoint, Qt
from PySide6.QtTest import QAbstractItemModelTester, QTest
from PySide6.QtWidgets import QLabel, QWidget

from gondrel.core.errors import MalformedFile
from gondrel.core.reports.figures import Figures
from gondrel.core.work import SILENT, Progress
from gondrel.jobs.messages import Job
from gondrel.ui.manifest.item_model import ManifestModel
from gondrel.ui.presenters.cells import empty_cells, proof_cells
from gondrel.ui.presenters.scale import scale_for
from gondrel.ui.presenters.states import State
from gondrel.ui.session.deferred import Deferred
from gondrel.ui.session.tasks import Tasks
from gondrel.ui.shell.application import make_application
from gondrel.ui.shell.ledger import LedgerView
from gondrel.ui.shell.notices import ErrorNotice, WorkStrip, error_text
from gondrel.ui.shell.route_band import RouteBand
from gondrel.ui.stage.legend import Legend
from gondrel.ui.stage.view_picker import ViewPicker
from gondrel.ui.widgets.bar import Bar
from tests.conftest import wait_until
from tests.ui.presenters.models import gate, many, proof_of

pytestmark = pytest.mark.window

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def parent() -> Iterator[QWidget]:
    make_application()
    widget = QWidget()
    widget.resize(1280, 400)
    widget.show()
    yield widget
    widget.close()


def heard(signal) -> list:
    found: list = []
    signal.connect(lambda *values: found.append(values[0] if len(values) == 1 else values))
    return found


@pytest.mark.parametrize("mode", ["structure", "flat", "used"])
def test_the_manifest_model_keeps_qts_rules(parent: QWidget, mode: str) -> None:
    model = ManifestModel(parent)
    tester = QAbstractItemModelTester(model, QAbstractItemModelTester.FailureReportingMode.Fatal, parent)
    model.show(gate(), mode)
    model.set_columns(("number", "revision", "material", "state"))
    model.set_states({"pin": State("lost", "colours")})
    model.sort_by("state", is_down=True)
    model.sort_by("", is_down=False)
    assert model.set_filter("pin") >= 1
    model.set_filter("")
    model.set_focus(frozenset({"pin"}))
    model.set_focus(frozenset())
    model.show(None, mode)
    assert model.rowCount() == 0
    assert tester.model() is model


def test_the_filter_keeps_what_leads_to_a_hit(parent: QWidget) -> None:
    model = ManifestModel(parent)
    model.show(gate(), "structure")
    assert model.set_filter("number:g-3") == 2
    root = model.index(0, 0)
    labels = [model.index(r, 0, root).data() for r in range(model.rowCount(root))]
    assert labels == ["Pin", "Pin set"]


def test_twenty_thousand_rows_have_their_places(parent: QWidget) -> None:
    model = ManifestModel(parent)
    model.show(many(20_000), "structure")
    root = model.index(0, 0, QModelIndex())
    assert model.rowCount(root) == 20_000
    last = model.index(19_999, 0, root)
    assert last.parent() == root
    assert model.index_of(model.row_of(last)) == last


def test_rows_below_are_made_when_they_are_opened(parent: QWidget) -> None:
    model = ManifestModel(parent)
    model.show(many(50), "structure")
    root = model.index(0, 0)
    row = model.row_of(root)
    assert row is not None and model.hasChildren(root) and row._children is None
    assert model.set_filter("nothing is called so") == 0
    assert not model.hasChildren()
    model.set_filter("")
    assert model.rowCount(root) == 50 and row._children is not None
    assert not model.hasChildren(model.index(0, 0, root))


def test_the_ledger_by_keyboard_and_mouse(parent: QWidget) -> None:
    ledger = LedgerView(parent)
    ledger.resize(1280, 122)
    ledger.show()
    chosen = heard(ledger.chosen)
    ledger.show_cells(proof_cells(proof_of(gate(), "colours")), "Carriage", "", "")
    ledger.setFocus()
    QTest.keyClick(ledger, Qt.Key.Key_Right)
    assert chosen == ["bodies"]
    ledger.set_current("bodies")
    QTest.keyClick(ledger, Qt.Key.Key_Left)
    assert chosen[-1] == "metadata", "quiet cells are passed over"
    at = [c.thing for c in ledger.cells].index("validation")
    QTest.mouseClick(ledger, LEFT, pos=ledger.cell_rect(at).center().toPoint())
    assert len(chosen) == 2, "a quiet cell does not open"
    ledger.set_current("colours")
    at = [c.thing for c in ledger.cells].index("colours")
    QTest.mouseClick(ledger, LEFT, pos=ledger.cell_rect(at).center().toPoint())
    assert chosen[-1] == "", "a second click closes it"
    ledger.show_cells(empty_cells(), "Carriage", "", "")
    assert not ledger.grab().isNull()


def test_the_band_goes_to_stations_search_and_menu(parent: QWidget) -> None:
    band = RouteBand(parent)
    band.resize(1280, 52)
    band.show()
    stations, search, menu = heard(band.chosen), heard(band.find_wanted), heard(band.menu_wanted)
    band.show_state("Gate", "received", 2, 3, {1: (3, "altered")})
    QTest.mouseClick(band, LEFT, pos=band.centre(4).toPoint() + QPoint(0, 6))
    QTest.keyClick(band, Qt.Key.Key_Right)
    assert stations == [4, 3]
    QTest.mouseClick(band, LEFT, pos=band.search_rect().center().toPoint())
    QTest.mouseClick(band, LEFT, pos=band.menu_rect().center().toPoint())
    assert (len(search), len(menu)) == (1, 1)


def test_views_are_chosen_by_key_and_lit_by_direction(parent: QWidget) -> None:
    views = ViewPicker(parent)
    views.show()
    chosen = heard(views.chosen)
    views.setFocus()
    QTest.keyClick(views, Qt.Key.Key_Right)
    QTest.keyClick(views, Qt.Key.Key_Return)
    assert chosen == ["top"]

    def shade(view: str) -> int:
        at = views.cell(view).topLeft().toPoint() + QPoint(5, 5)
        return views.grab().toImage().pixelColor(at).lightness()

    views.clearFocus()
    views.show_direction(np.array([0.0, 0.0, 1.0]))
    assert shade("top") < shade("front") - 30
    views.show_direction(np.array([0.0, -1.0, 0.0]))
    assert shade("front") < shade("top") - 30


def test_an_error_says_what_where_and_what_to_do(parent: QWidget) -> None:
    error = MalformedFile("the record is broken", file="/a/b.stp", where="#12", hint="ask the sender")
    assert error_text(error).split("\n") == [
        "the record is broken", "File: /a/b.stp", "Place: #12", "What to do: ask the sender",
    ]  # fmt: skip
    notice = ErrorNotice(parent)
    notice.tell(error)
    assert notice.isVisible()
    assert notice.what.text() == "The record is broken"
    QTest.mouseClick(notice.shut, LEFT)
    assert not notice.isVisible()


def test_names_that_look_like_markup_are_shown_as_they_are(parent: QWidget) -> None:
    from gondrel.ui.presenters.cells import LedgerGroup
    from gondrel.ui.sheets.base import FindingCard

    card = FindingCard(
        LedgerGroup("names", "lost", "Names", "<b>Gate</b> & <x>", "", frozenset(), frozenset())
    )
    labels = [label for label in card.findChildren(QLabel) if "Gate" in label.text()]
    assert labels[0].textFormat() == Qt.TextFormat.PlainText


def test_a_bar_wanders_while_nothing_is_known_and_then_fills(parent: QWidget) -> None:
    bar = Bar(parent)
    bar.setGeometry(0, 0, 200, 6)
    bar.show()
    assert bar._timer.isActive()
    bar.show_share(0.5)
    assert not bar._timer.isActive()
    picture = bar.grab().toImage()
    assert picture.pixelColor(60, 3) != picture.pixelColor(160, 3)


@pytest.mark.slow
def test_each_job_has_a_line_and_a_stop_of_its_own(parent: QWidget) -> None:
    tasks = Tasks(Deferred(parent), parent)
    strip = WorkStrip(tasks, lambda: 0, parent)
    strip.set_quiet(False)
    ended: list[str] = []
    for name, mesher in (("one", False), ("two", True)):
        tasks.run(
            Job("tests.jobs.test_worker:loop", doing=f"turning {name}"),
            done=lambda value, n=name: ended.append(f"{n} done"),
            failed=lambda error, n=name: ended.append(f"{n} failed {error}"),
            stopped=lambda n=name: ended.append(f"{n} stopped"),
            mesher=mesher,
        )
    wait_until(lambda: len(strip.rows) == 2 and all(t.share for t in tasks.running.values()), 60)
    assert strip.isVisible()
    second = next(n for n, t in tasks.running.items() if t.title == "Turning two")
    tasks.cancel_one(second)
    wait_until(lambda: bool(ended), 10)
    assert ended == ["two stopped"]
    assert [t.title for t in tasks.running.values()] == ["Turning one"]
    tasks.cancel()
    wait_until(lambda: len(ended) == 2, 10)
    wait_until(lambda: not strip.isVisible(), 5)
    tasks.close()


def test_messages_are_taken_in_their_order_however_many_come(parent: QWidget, monkeypatch) -> None:
    monkeypatch.setattr("gondrel.ui.session.deferred._AT_A_TIME", 0.0)  # one in each turn
    tasks, heard = Tasks(Deferred(parent), parent), []
    job = Job("tests.ui.test_widgets:count_up", doing="counting")
    tasks.run(job, done=lambda value: heard.append(value), failed=heard.append, partial=heard.append)
    wait_until(lambda: not tasks.running, 60)
    assert heard == [*range(200), "done"]
    tasks.close()


def count_up(*, progress: Progress = SILENT) -> str:
    for number in range(200):
        progress.give(number)
    return "done"


def test_the_legend_names_its_bands_in_the_shown_unit(parent: QWidget) -> None:
    legend = Legend(parent)
    legend.show_scale(scale_for(0.04), Figures("mm"), ("measured both ways",))
    assert [legend._limit(i) for i in range(5)] == [
        "to 0.005 mm", "to 0.01 mm", "to 0.025 mm", "to 0.05 mm", "above 0.05 mm",
    ]  # fmt: skip
    legend.show_scale(scale_for(0.0), Figures("inch"), ())
    assert legend._limit(0) == "surfaces coincide"
    assert not legend.grab().isNull()

"""Takes the pictures in docs/screenshots from the demo.

Run: xvfb-run -a -s "-screen 0 1400x900x24" .venv/bin/python scripts/screenshots.py [FOLDER] [WIDTHxHEIGHT]
"""

from __future__ import annotations

import atexit
import os
import shutil
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

STATE = tempfile.mkdtemp(prefix="gondrel-pictures-")
atexit.register(shutil.rmtree, STATE, ignore_errors=True)
os.environ["XDG_STATE_HOME"] = os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_CACHE_HOME"] = STATE

from PySide6.QtGui import QColor, QPainter, QPixmap  # noqa: E402
from PySide6.QtTest import QTest  # noqa: E402

from gondrel.core.model import (  # noqa: E402
    History,
    Occurrence,
    Product,
)
from gondrel.core.recipients.card import card_named  # noqa: E402
from gondrel.core.service.crossing import Crossing  # noqa: E402
from gondrel.core.service.handover import make_handover  # noqa: E402
from gondrel.core.service.intake import receive_by  # noqa: E402
from gondrel.core.service.send import send  # noqa: E402
from gondrel.core.service.settings import receive_options_from, settings_from  # noqa: E402
from gondrel.ui.session.stations import Station  # noqa: E402
from gondrel.ui.shell.application import open_window  # noqa: E402

FOLDER = Path(sys.argv[1] if len(sys.argv) > 1 else Path(__file__).parent.parent / "docs" / "screenshots")
WIDTH, HEIGHT = (int(n) for n in (sys.argv[2] if len(sys.argv) > 2 else "1280x800").split("x"))
_HOLE = {
    "do": "hole", "at": [0, 60, 20], "into": [0, 0, -1], "diameter": 30.0, "items": {"name": "Base plate"},
}  # fmt: skip
DEMO = Path(STATE) / "gondrel" / "demo" / "paddle-winding-gear.stp"


def wait(condition: Callable[[], object]) -> None:
    """Run the event loop until something is true, two minutes at most."""
    end = time.monotonic() + 120
    while not condition() and time.monotonic() < end:
        QTest.qWait(10)
    QTest.qWait(300)


def shot(window: Any, name: str, *, smooth: bool = True) -> None:
    """Save a picture of the window."""
    window.toast.hide()
    canvas = window.stage.canvas
    QTest.qWait(300)
    wait(lambda: not window.session.tasks.running and not any(scene.wanted for scene in canvas.scenes))
    if smooth:
        canvas.smooth(4, False)
    wait(lambda: canvas.is_settled)  # coarse while it moves, or work goes on
    QTest.qWait(400)
    window.grab().save(str(FOLDER / f"{name}.png"))


def fresh() -> Any:
    """An empty window that is ready."""
    window = open_window()
    window.resize(WIDTH, HEIGHT)
    wait(lambda: window.stage is not None and window.session.targets)
    return window


def stations(window: Any) -> None:
    """Each station."""
    session = window.session
    pinion = next(p.id for p in session.model.products if p.name.startswith("Spur wheel"))
    for number, name in ((s, s.title) for s in Station):
        session.go(number)
        if name == "Check":
            check(window)
        session.select(((frozenset({f"product:{pinion}"}),),) if name == "Arrange" else ())
        shot(window, name.lower())
        window.stage.canvas.set_view("home")  # from where a finding was flown to


def structure(window: Any) -> None:
    """The demo sent flat, and the structure that its bodies speak for; the table of facts."""
    session, folder = window.session, str(window.session.store.folder)
    flat = receive_by(str(DEMO), folder, receive_options_from({"structure": "flat"}))
    path = f"{STATE}/flat-gear.stp"
    send(flat, path, "step-ap242", settings_from({"force": "yes"}), folder)
    session.open_file(path)
    wait(lambda: session.crossing.name == "flat-gear" and not session.tasks.running)
    session.go(Station.ARRANGE)
    session.arranging.propose()
    wait(lambda: session.arranging.proposal is not None and session.checking.report is not None)
    wait(lambda: not session.tasks.running)  # it checks by itself, and draws coarsely meanwhile
    table = window.arrange.table
    table.topLevelItem(5).setExpanded(True)
    table.setCurrentItem(table.topLevelItem(5))
    shot(window, "arrange-structure")
    session.arranging.take()
    wait(lambda: len(session.model.products) > 1 and not session.tasks.running)
    window.show_table()
    QTest.qWait(500)
    window.pages["table"].grab().save(str(FOLDER / "table.png"))
    window.pages["table"].close()


def check(window: Any) -> None:
    """Check, open the first kind of finding and fly to one."""
    session, sheet = window.session, window.check
    session.checking.check()
    wait(lambda: session.checking.report is not None and not session.tasks.running)
    group = next(f.code for f in session.checking.report.findings)
    sheet._open(group)
    wait(lambda: group in sheet.lists)
    sheet.lists[group].setCurrentRow(0)
    wait(lambda: window.stage.pointer.isVisible())


def recipients(window: Any) -> None:
    """The demo for a recipient: the forecast at theirs, a rehearsal, a batch."""
    session, sheet = window.session, window.send_sheet
    session.go(4)
    sheet.recipient.setCurrentIndex(sheet.recipient.findData("rigger"))
    wait(lambda: session.addressing.card is not None and not session.tasks.running)
    shot(window, "send")
    window.show_page("rehearsal")
    window.pages["rehearsal"].go.click()
    wait(lambda: session.addressing.rehearsal is not None and not session.tasks.running)
    window.pages["rehearsal"].grab().save(str(FOLDER / "rehearsal.png"))
    batch(window)
    for key in ("rehearsal", "batch"):
        window.pages[key].close()
    sheet.recipient.setCurrentIndex(0)
    wait(lambda: session.addressing.card is None and not session.tasks.running)


def batch(window: Any) -> None:
    """A folder with a file that is cut off."""
    source = Path(STATE) / "from-ostrey"
    source.mkdir()
    for name in ("gear-north", "gear-south"):
        (source / f"{name}.stp").write_bytes(DEMO.read_bytes())
    (source / "plummer-bush.stp").write_bytes(DEMO.with_name("plummer-bush.stp").read_bytes())
    (source / "spare-rack.stp").write_bytes(DEMO.read_bytes()[:200_000])
    window.show_page("batch")
    page = window.pages["batch"]
    page.source.setText(str(source))
    page.target.setText(f"{STATE}/for-riggers")
    page.start()
    wait(lambda: page.runner is None)
    for line, text in ((page.source, "/home/pattern/from-ostrey"), (page.target, "/home/pattern/riggers")):
        line.setText(text)
    page.grab().save(str(FOLDER / "batch.png"))


def flat(window: Any) -> None:
    """A drawing with a size changed, the views of the gear, features of a side frame."""
    window.open_demo()
    session = window.session
    wait(lambda: session.model is not None and not session.tasks.running)
    session.open_file(str(DEMO.with_name("pawl-bracket.dxf")))
    drafting = session.drafting
    wait(lambda: drafting.looked is not None)
    drafting.resize("R3", 12.0)
    wait(lambda: not drafting.is_busy)
    page = window.pages["drawing"]
    page.show_tab("sizes")
    page.trees["sizes"].setCurrentItem(page.trees["sizes"].topLevelItem(5))
    QTest.qWait(300)
    page.grab().save(str(FOLDER / "drawing.png"))
    page.hide()
    page = _page(window, "draw")
    page.draw.click()
    wait(lambda: session.plotting.drawing is not None and not session.plotting.is_busy)
    page.grab().save(str(FOLDER / "views.png"))
    page.hide()
    page = _page(window, "measures")
    page.show_kind("features")
    page.measure()
    wait(lambda: session.sizing.features is not None)
    table = page.tables["features"]
    items = [table.topLevelItem(n) for n in range(table.topLevelItemCount())]
    chosen = next(i for i in items if i.text(0).startswith("Spur wheel") and i.text(2) == "pattern")
    table.setCurrentItem(chosen)
    table.scrollToItem(chosen)
    page._chosen(chosen)
    QTest.qWait(300)
    page.grab().save(str(FOLDER / "features.png"))


def register(window: Any) -> None:
    """A pinion as its next major revision: who uses what, what repointing changes, and a crate in which it
    is another than here."""
    window.open_demo()
    session, registering = window.session, window.session.registering
    wait(lambda: session.model is not None and not session.tasks.running)
    page = _page(window, "register")
    page.resize(1180, 720)

    def put(step: dict[str, Any] | None = None, *, major: bool = False) -> None:
        count = len(session.crossing.history.steps)
        if step is not None:
            session.arranging.do(step, keep=True)
            wait(lambda: len(session.crossing.history.steps) > count and not session.tasks.running)
        registering.put(next_major=major)
        QTest.qWait(100)
        wait(lambda: not session.tasks.running)

    def look_at(name: str) -> None:
        registering.show(name)
        wait(lambda: page.name == name and registering.picture and not session.tasks.running)
        QTest.qWait(300)

    shorter = {"do": "cut", "at": [0, 0, 48], "normal": [0, 0, 1], "items": {"number": "PG-202"}}
    put()
    put({"do": "set", "items": {"number": "PG-000"}, "field": "number", "value": "PG-900"})
    registering.release("PG-900/B.1", with_all=True)
    wait(lambda: not session.tasks.running)
    look_at("PG-202/C.1")
    registering.take_out("PG-202/C.1")
    wait(lambda: len(session.model.products) == 1 and not session.tasks.running)
    put(shorter, major=True)
    look_at("PG-202/C.1")
    page.within.setCurrentIndex(page.within.findData("PG-900/B.1"))
    pages = [page.grab()]
    page.look.click()
    wait(lambda: page.repointing is not None and page.repointing.isVisible())
    QTest.qWait(300)
    pages.append(page.repointing.grab())
    page.repointing.do.click()
    wait(lambda: not page.repointing.isVisible() and not session.tasks.running)
    crate = f"{STATE}/gears.crate"
    registering.pack(("PG-900",), crate, used_only=False)
    wait(lambda: Path(crate).is_file() and not session.tasks.running)
    registering.address = f"{STATE}/other.sqlite"
    window.open_demo()
    wait(lambda: len(session.model.products) > 1 and not session.tasks.running)
    put({**shorter, "at": [0, 0, 46]})
    page.open_crate(crate)
    wait(lambda: page.crates.choices and not session.tasks.running)
    QTest.qWait(300)
    pages.append(page.crates.grab())
    for each in (page.crates, page):
        each.hide()
    _mounted(pages).save(str(FOLDER / "register.png"))


def _mounted(pages: list[QPixmap]) -> QPixmap:
    """Pages of one subject on one sheet: the first at the left, the others beneath one another."""
    first, *others = pages
    gap = 24
    width = first.width() + gap + max(page.width() for page in others)
    height = max(first.height(), sum(page.height() + gap for page in others) - gap)
    sheet = QPixmap(width, height)
    sheet.fill(QColor("#D9D4C7"))
    painter = QPainter(sheet)
    painter.drawPixmap(0, 0, first)
    top = 0
    for page in others:
        painter.drawPixmap(first.width() + gap, top, page)
        top += page.height() + gap
    painter.end()
    return sheet


def report() -> None:
    """The first page of the report that goes with the demo."""
    import pypdfium2

    folder = f"{STATE}/report"
    model = receive_by(str(DEMO), folder, receive_options_from({}))
    data = make_handover(model, "x.pdf", "step-ap214", card_named("rigger"), settings_from({}), folder)
    page = pypdfium2.PdfDocument(data)[0]
    page.render(scale=1.3).to_pil().save(FOLDER / "report.png")


def looking(window: Any) -> None:
    """A section measured in, the gear taken apart, a hole more than before."""
    window.open_demo()
    session, stage = window.session, window.stage
    wait(lambda: session.checking.report is not None and not session.tasks.running)
    _section(window)
    session.exploding.toggle()
    wait(lambda: not session.tasks.running)
    session.exploding.set_level(2)
    session.exploding.set_spread(0.8)
    QTest.qWait(500)
    stage.canvas.fit()
    shot(window, "apart")
    session.exploding.toggle()
    stage.canvas.fit()
    session.arranging.do(_HOLE, keep=True)
    wait(lambda: len(session.crossing.history.steps) > 1 and not session.tasks.running)
    page = _page(window, "compare")
    session.comparing.with_step(0)
    wait(lambda: session.comparing.beside is not None and not session.tasks.running)
    session.comparing.show("difference")
    wait(lambda: not session.tasks.running)
    page.hide()
    shot(window, "compare")


def _section(window: Any) -> None:
    """The gear cut through the pinion's axis, from the front, and a distance on a cut face."""
    session, stage = window.session, window.stage
    stage.toggle_section()
    session.sectioning.put_at(20.0)
    wait(lambda: stage.canvas.scenes[0].caps and not session.tasks.running)
    shot(window, "section")
    stage.toggle_section()
    wait(lambda: not session.tasks.running)


def _page(window: Any, key: str) -> Any:
    window.show_page(key)
    return window.pages[key]


def states(window: Any) -> None:
    """Very many parts."""
    session = window.session
    session.open_file(str(DEMO))
    wait(lambda: session.model is not None and not session.tasks.running)
    model = session.model
    uses = tuple(
        Occurrence(f"y{i}", model.roots[0], f"Gear {i + 1}", _at(700.0 * (i % 10), 900.0 * (i // 10)))
        for i in range(80)
    )
    yard = Product("yard", "PG-900", "Gear yard", "A", occurrences=uses)
    many = replace(model, products=(yard, *model.products), roots=("yard",))
    session.take_crossing(Crossing("gear-yard", History.begin(many, "Receive gear-yard")), None, dirty=True)
    wait(lambda: not session.tasks.running)
    window.stage.canvas.settle()
    shot(window, "very-many", smooth=False)


def _at(x: float, y: float) -> tuple[float, ...]:
    return (1, 0, 0, x, 0, 1, 0, y, 0, 0, 1, 0, 0, 0, 0, 1)


def main() -> None:
    """The demo through all stations, then the other states."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    window = fresh()
    session = window.session
    window.open_demo()
    wait(lambda: session.model is not None and not session.tasks.running)
    session.go(4)
    for box, chosen in (
        (window.send_sheet.form.target, "step-ap203"),
        (window.send_sheet.form.unit, "inch"),
    ):
        box.setCurrentIndex(box.findData(chosen))
    wait(lambda: not session.tasks.running)
    session.send(f"{STATE}/paddle-gear-ap203.stp")
    wait(lambda: session.sent is not None and not session.tasks.running)
    stations(window)
    recipients(window)
    report()
    window.close()
    window = fresh()
    structure(window)
    window.close()
    window = fresh()
    looking(window)
    window.close()
    window = fresh()
    flat(window)
    window.close()
    window = fresh()
    register(window)
    window.close()
    window = fresh()
    states(window)
    window.close()


if __name__ == "__main__":
    main()

"""Around the work: dropping files, history, reports, windows, the command with a file name."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent
from PySide6.QtWidgets import QApplication

from gondrel.core.arrange.properties import set_text
from gondrel.ui.shell import application
from gondrel.ui.shell.reporting import save_report
from tests.conftest import settle, wait_until

pytestmark = [pytest.mark.slow, pytest.mark.window]


def receive(window, path: str) -> None:
    window.session.open_file(path)
    wait_until(lambda: window.session.model is not None, 60)
    settle(window.session)


def test_a_file_dropped_on_the_window_is_received(window, as1: str) -> None:
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(as1)])
    event = QDropEvent(
        QPointF(640, 400),
        Qt.DropAction.CopyAction,
        data,
        Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.NoModifier,
    )
    window.dropEvent(event)
    wait_until(lambda: window.session.model is not None, 60)
    assert window.session.crossing.name == "as1-tu-203"
    settle(window.session)


def test_the_history_names_edits_and_goes_to_any_of_them(window, as1: str) -> None:
    receive(window, as1)
    session = window.session
    root = session.model.roots[0]
    for value in ("A", "B", "C"):
        session.edit(lambda model, v=value: set_text(model, [root], "revision", v))
    window.show_history()
    page = window.pages["history"]
    lines = [page.list.item(i).text().strip(" \u25b8") for i in range(page.list.count())]
    assert lines[0].startswith("Receive as1-tu-203")
    assert [line.rsplit(" ", 1)[-1] for line in lines[1:]] == ["A", "B", "C"]
    page.list.itemClicked.emit(page.list.item(1))
    assert session.model.product(root).revision == "A"
    assert window.actions_by_key["redo"].isEnabled()
    assert page.list.currentRow() == 1
    session.edit(lambda model: set_text(model, [root], "revision", "D"))
    assert page.list.count() == 3, "what was undone is forgotten by a new edit"
    settle(window.session)


def _damaged_crossings(folder: Path) -> Iterator[tuple[str, bytes]]:
    """A crossing damaged in every way that opening one is tried with, by name."""
    from tests.core.service.test_opening import DAMAGES, made_members, put

    members = made_members(folder / "made")
    for name, damage, _ in DAMAGES:
        changed = dict(members)
        damage(changed)
        put(folder / "made" / "damaged.crossing", changed)
        yield name, (folder / "made" / "damaged.crossing").read_bytes()


def test_a_damaged_crossing_leaves_what_is_open_and_autosave_goes_on(window, as1: str, tmp_path) -> None:
    receive(window, as1)
    session, keeping = window.session, window.session.persistence
    path = tmp_path / "mine.crossing"
    keeping.save(path)
    wait_until(lambda: keeping.path == path and not keeping.busy, 60)
    whole, model = path.read_bytes(), session.model
    for name, data in (
        ("cut", whole[: len(whole) // 2]),
        ("none", b"this is no crossing"),
        ("junk", whole.replace(b"crossing.json", b"crossing.jsom")),
        ("flipped", whole[:3000] + bytes(64) + whole[3064:]),
        *((name.replace(" ", "-"), data) for name, data in _damaged_crossings(tmp_path)),
    ):
        damaged = tmp_path / f"{name}.crossing"
        damaged.write_bytes(data)
        window.error_notice.hide()
        session.open_file(str(damaged))
        wait_until(window.error_notice.isVisible, 60)
        settle(session)
        assert session.model is model and keeping.path == path and not keeping.busy
    root = session.model.roots[0]
    session.edit(lambda model: set_text(model, [root], "revision", "Z"))
    kept = keeping.autosave_path()
    keeping.autosave()
    wait_until(kept.exists, 30)
    assert kept.stat().st_mode & 0o077 == 0
    settle(session)


def test_an_edit_that_is_refused_changes_nothing_and_is_told(window, as1: str) -> None:
    receive(window, as1)
    before = window.session.crossing
    assert not window.session.edit(lambda model: set_text(model, [], "name", "x"))
    assert window.session.crossing is before
    assert window.error_notice.isVisible()


def test_a_component_has_a_name_and_colour_of_its_own(window, as1: str) -> None:
    """One of two equal brackets is painted; the other and the part stay, and undo takes it back."""
    receive(window, as1)
    session, sheet = window.session, window.arrange
    model = session.model
    parent, use = next(
        (p, u) for p, u in model.occurrences() if sum(o.product == u.product for o in p.occurrences) > 1
    )
    session.go(3)
    session.select(((frozenset({use.id}),),))
    wait_until(lambda: "component name" in sheet.lines)
    line = sheet.lines["component name"]
    line.setText("Upper")
    line.editingFinished.emit()
    settle(session)
    sheet.place_swatches[6].click()
    settle(session)
    changed = {u.id: u for u in session.model.product(parent.id).occurrences}
    assert changed[use.id].name == "Upper" and changed[use.id].colour is not None
    others = [u for u in parent.occurrences if u.id != use.id]
    assert [changed[u.id] for u in others] == others
    assert session.model.product(use.product) == model.product(use.product)
    sheet.new_key.setText("Position")
    sheet.new_value.setText("12")
    sheet.new_here.click()
    wait_until(lambda: "component Position" in sheet.lines)
    (datum,) = session.model.product(parent.id).occurrences[parent.occurrences.index(use)].metadata
    assert (datum.key, datum.value) == ("Position", "12")
    sheet.as_part.click()
    settle(session)
    assert {u.id: u for u in session.model.product(parent.id).occurrences}[use.id].colour is None
    window.actions_by_key["undo"].trigger()
    settle(session)
    assert {u.id: u for u in session.model.product(parent.id).occurrences}[use.id].colour is not None


def test_reports_as_pdf_and_html_and_the_proof_as_json(window, as1: str, tmp_path: Path) -> None:
    receive(window, as1)
    window.session.send(str(tmp_path / "out.stp"))
    wait_until(lambda: window.session.sent is not None, 90)
    settle(window.session)
    assert save_report(window, tmp_path / "report.pdf")
    pdf = (tmp_path / "report.pdf").read_bytes()
    assert pdf.startswith(b"%PDF")
    assert pdf.count(b"/Type /Page\n") >= 2
    assert save_report(window, tmp_path / "report.html")
    assert "as1-tu-203" in (tmp_path / "report.html").read_text()
    window.save_proof()
    proof = json.loads((tmp_path / "out.proof.json").read_text())
    assert proof["verdict"] == "carried"
    assert not save_report(window, tmp_path / "no" / "report.html")
    assert "can't be written" in window.error_notice.what.text().lower()


def test_a_second_window_has_a_crossing_of_its_own(window, as1: str) -> None:
    receive(window, as1)
    count = len(application._windows)
    window.actions_by_key["new-window"].trigger()
    assert len(application._windows) == count + 1
    other = application._windows[-1]
    wait_until(lambda: other.stage is not None)
    assert other.session.model is None
    assert other.settings is window.settings
    other.close()
    assert len(application._windows) == count
    assert window.session.model is not None


def test_names_are_copied(window, as1: str) -> None:
    receive(window, as1)
    window.session.select(((frozenset({f"product:{window.session.model.roots[0]}"}),),))
    window.actions_by_key["copy-names"].trigger()
    assert "as1\t" in QApplication.clipboard().text()


def test_the_command_opens_a_file_it_is_given(as1: str, tmp_path: Path) -> None:
    code = (
        "import sys\n"
        "from gondrel.ui.shell import application\n"
        "from PySide6.QtCore import QTimer\n"
        "def look():\n"
        "    session = application._windows[0].session\n"
        "    if session.model is not None and not session.tasks.running:\n"
        "        print(session.crossing.name, flush=True)\n"
        "        application._windows[0].close()\n"
        "        application.make_application().quit()\n"
        "application.make_application()\n"
        "timer = QTimer(interval=100)\n"
        "timer.timeout.connect(look)\n"
        "timer.start()\n"
        "sys.exit(application.run([sys.argv[1]]))\n"
    )
    done = subprocess.run(
        [sys.executable, "-c", code, as1], capture_output=True, text=True, timeout=120, check=False
    )
    assert done.stdout.strip() == "as1-tu-203"
    assert done.returncode == 0


@pytest.mark.parametrize(
    ("argument", "said"),
    [("/no/such/file.stp", "no such file"), ("--frobnicate", "unknown option")],
)
def test_the_command_refuses_what_it_can_t_open(argument: str, said: str) -> None:
    command = [sys.executable, "-m", "gondrel.cli.main", argument]
    done = subprocess.run(command, capture_output=True, text=True, timeout=60, check=False)
    assert done.returncode == 2
    assert said in done.stderr


def test_a_crossing_is_offered_again_after_the_application_was_killed(as1: str, tmp_path: Path) -> None:
    code = (
        "import sys\n"
        "from gondrel.ui.shell import application\n"
        "from PySide6.QtCore import QTimer\n"
        "application.make_application()\n"
        "window = application.open_window([sys.argv[1]])\n"
        "def look():\n"
        "    session = window.session\n"
        "    if session.model is not None and not session.tasks.running:\n"
        "        session.persistence.autosave(lambda: print('kept', flush=True))\n"
        "timer = QTimer(interval=200)\n"
        "timer.timeout.connect(look)\n"
        "timer.start()\n"
        "application.make_application().exec()\n"
    )
    process = subprocess.Popen([sys.executable, "-c", code, as1], stdout=subprocess.PIPE, text=True)
    assert process.stdout is not None
    assert process.stdout.readline().strip() == "kept"
    os.kill(process.pid, signal.SIGKILL)
    process.wait()
    time.sleep(0.1)

    from gondrel.ui.session.persistence import lost_crossings

    assert [lost.name for lost in lost_crossings()] == ["as1-tu-203"]


@pytest.mark.parametrize("number", [signal.SIGTERM, signal.SIGINT])
def test_a_signal_closes_the_window_and_leaves_nothing(number, as1: str, tmp_path: Path) -> None:
    code = (
        "import sys\n"
        "from gondrel.ui.shell import application\n"
        "from PySide6.QtCore import QTimer\n"
        "made = application.make_application()\n"
        "application.end_on_signals(made)\n"
        "window = application.open_window([sys.argv[1]])\n"
        "timer = QTimer(interval=100)\n"
        "timer.timeout.connect(lambda: window.session.model is not None and print('read', flush=True))\n"
        "timer.start()\n"
        "sys.exit(made.exec())\n"
    )
    folder = tmp_path / "temporary"
    folder.mkdir()
    surroundings = {**os.environ, "TMPDIR": str(folder)}
    process = subprocess.Popen(
        [sys.executable, "-c", code, as1], stdout=subprocess.PIPE, text=True, env=surroundings
    )
    assert process.stdout is not None
    assert process.stdout.readline().strip() == "read"
    assert list(folder.iterdir())
    process.send_signal(number)
    assert process.wait(20) == 128 + number
    assert not list(folder.iterdir())


@pytest.mark.parametrize("after", [0.3, 0.7, 1.2])
def test_an_interrupt_while_it_starts_ends_it(after, as1: str) -> None:
    command = [sys.executable, "-m", "gondrel.cli.main", as1]
    process = subprocess.Popen(
        command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        preexec_fn=lambda: signal.signal(signal.SIGINT, signal.default_int_handler),
    )  # fmt: skip
    time.sleep(after)
    process.send_signal(signal.SIGINT)
    assert process.wait(20) in (-signal.SIGINT, 128 + signal.SIGINT)

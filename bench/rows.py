"""20,000 rows in the manifest: filter, sort, select all, rename by a pattern, and the window's stalls.

Run: xvfb-run -a -s "-screen 0 1400x900x24" .venv/bin/python bench/rows.py [ROWS]
Each is timed from the event to the return of the event loop, as a user waits for it; the baseline is a walk
over the same model in the same run.
"""

from __future__ import annotations

import os
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

STATE = tempfile.mkdtemp(prefix="gondrel-bench-")
os.environ["XDG_STATE_HOME"] = os.environ["XDG_CONFIG_HOME"] = STATE

from PySide6.QtCore import QTimer  # noqa: E402
from PySide6.QtTest import QTest  # noqa: E402

from gondrel.core.kernel.base.shape import shape_to_blob  # noqa: E402
from gondrel.core.kernel.modelling import build  # noqa: E402
from gondrel.core.model import Body, BodyKind, History, Model, Occurrence, Product  # noqa: E402
from gondrel.core.service.crossing import Crossing  # noqa: E402
from gondrel.ui.session.stations import Station  # noqa: E402
from gondrel.ui.shell.application import open_window  # noqa: E402


def made(rows: int, blob: str) -> Model:
    """Parts of one shape in assemblies of a hundred."""
    parts, houses, top = [], [], []
    for house in range(rows // 100):
        uses = []
        for place in range(100):
            number = house * 100 + place
            body = Body(f"b{number}", BodyKind.SOLID, "", blob)
            part = Product(f"p{number}", f"N-{number:05d}", f"Part {number * 7919 % rows}", bodies=(body,))
            parts.append(part)
            at = (1, 0, 0, 30.0 * place, 0, 1, 0, 30.0 * house, 0, 0, 1, 0, 0, 0, 0, 1)
            uses.append(Occurrence(f"u{number}", part.id, "", at))
        houses.append(Product(f"h{house}", f"H-{house:03d}", f"House {house}", occurrences=tuple(uses)))
        top.append(Occurrence(f"v{house}", f"h{house}", ""))
    whole = Product("top", "T", "Top", occurrences=tuple(top))
    return Model((whole, *houses, *parts), ("top",))


def timed(what: str, act: Callable[[], None], over: Callable[[], bool], baseline: float) -> None:
    """Do something, wait until it is over, and print how long it took and the longest stall."""
    gaps, last = [0.0], [time.perf_counter()]

    def turn() -> None:
        now = time.perf_counter()
        gaps.append(now - last[0])
        last[0] = now

    timer = QTimer(interval=2)
    timer.timeout.connect(turn)
    timer.start()
    QTest.qWait(50)
    gaps.clear()
    begun = time.perf_counter()
    act()
    while not over() and time.perf_counter() - begun < 60:
        QTest.qWait(1)
    took = time.perf_counter() - begun
    QTest.qWait(1500)  # what comes after it may stall too
    timer.stop()
    stall = max(gaps) * 1000
    print(f"{what}: {took * 1000:.0f} ms ({took / baseline:.1f} walks), longest stall {stall:.0f} ms")


def main(rows: int) -> None:
    window: Any = open_window()
    window.resize(1280, 800)
    session = window.session
    while window.stage is None or not session.targets:
        QTest.qWait(20)
    blob = session.store.put(shape_to_blob(build.block(20, 20, 20)))
    model = made(rows, blob)
    session.take_crossing(Crossing("rows", History.begin(model, "Receive")), None, dirty=True)
    session.go(Station.ARRANGE)
    end = time.time() + 120
    QTest.qWait(3000)
    while session.tasks.running and time.time() < end:
        QTest.qWait(50)
    begun = time.perf_counter()
    assert sum(1 for _ in model.walk()) == rows + rows // 100 + 1
    walk = time.perf_counter() - begun
    print(f"{rows} rows; a walk over the model {walk * 1000:.0f} ms")
    manifest = window.manifest
    manifest.set_mode("flat")
    QTest.qWait(1500)
    timed("filter", lambda: manifest.filter.setText("part 77"), lambda: True, walk)
    timed("filter off", lambda: manifest.filter.setText(""), lambda: True, walk)
    header = manifest.tree.header()
    timed("sort by number", lambda: header.sectionClicked.emit(1), lambda: True, walk)
    everything = window.actions_by_key["select-all"]
    timed("select all", everything.trigger, lambda: len(session.selection) >= rows, walk)
    form = window.arrange.form
    form.choose("rename")
    form.inputs["pattern"].setText("Bolt {n:5}")
    timed("rename by pattern", form.do.click, lambda: "Bolt" in session.model.products[-1].name, walk)
    timed("undo", session.undo, lambda: "Part" in session.model.products[-1].name, walk)
    window.close()


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 20_000)
    sys.stdout.flush()
    Path(STATE).exists()
    os._exit(0)

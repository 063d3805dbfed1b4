"""The longest stall of the window's event loop while a single part of some 9 MB loads.

Run: xvfb-run -a -s "-screen 0 1400x900x24" .venv/bin/python bench/stall.py [FILE]
"""

from __future__ import annotations

import sys
import tempfile
import time

from parts import make_heavy_part
from PySide6.QtCore import QTimer
from PySide6.QtTest import QTest

from gondrel.ui.shell.application import make_application, open_window


def main() -> None:
    """Load a file in a real window and print the longest gaps between turns of the event loop."""
    path = sys.argv[1] if len(sys.argv) > 1 else f"{tempfile.mkdtemp()}/stepped-hub.stp"
    if len(sys.argv) < 2:
        make_heavy_part(path)
    make_application()
    window = open_window()
    session = window.session
    while window.stage is None or not session.targets:
        QTest.qWait(20)
    QTest.qWait(1500)
    gaps: list[tuple[float, float]] = []
    last = [time.perf_counter()]
    start = time.perf_counter()

    def turn() -> None:
        now = time.perf_counter()
        gaps.append((now - last[0], now - start))
        last[0] = now

    watch = QTimer(interval=2)
    watch.timeout.connect(turn)
    watch.start()
    session.open_file(path)
    while session.model is None or session.tasks.running:
        QTest.qWait(5)
    loaded = time.perf_counter() - start
    QTest.qWait(1000)
    gaps.sort(reverse=True)
    print(f"loaded in {loaded:.1f} s; longest stalls:")
    for gap, at in gaps[:6]:
        print(f"  {gap * 1000:.0f} ms at {at:.2f} s")
    window.close()


if __name__ == "__main__":
    main()

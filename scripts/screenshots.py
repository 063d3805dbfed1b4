"""Takes the pictures in docs/screenshots from the demo. Run: xvfb-run -a -s "-screen 0 1400x900x24"
.venv/bin/python scripts/screenshots.py
"""

from __future__ import annotations

import os
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

STATE = tempfile.mkdtemp(prefix="gondrel-pictures-")
os.environ["XDG_STATE_HOME"] = STATE

from PySide6.QtTest import QTest  # noqa: E402

from gondrel.ui.application import make_application, open_window  # noqa: E402

FOLDER = Path(__file__).parent.parent / "docs" / "screenshots"


def wait(condition: Callable[[], bool]) -> None:
    """Run the event loop until something is true, a minute at most."""
    end = time.monotonic() + 60
    while not condition() and time.monotonic() < end:
        QTest.qWait(20)
    QTest.qWait(400)


def main() -> None:
    """Receive the demo, look at Send for AP203, send, look at Prove."""
    make_application()
    window = open_window(demo=True)
    session = window.session

    def shot(name: str) -> None:
        window.notice.hide()
        window.stage.canvas.smooth(4, False)
        QTest.qWait(500)
        window.grab().save(str(FOLDER / f"{name}.png"))

    wait(lambda: session.model is not None and not session.tasks.running)
    shot("receive")
    session.go(4)
    window.send_sheet.radios["step-ap203"].click()
    wait(lambda: not session.tasks.running)
    shot("send")
    window.send_sheet.path.setText(f"{STATE}/paddle-gear-ap203.stp")
    window.send_sheet.send()
    wait(lambda: session.sent is not None and not session.tasks.running)
    shot("prove")
    window.close()


if __name__ == "__main__":
    main()

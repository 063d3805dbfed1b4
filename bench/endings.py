"""Bad moments by the hundred: kills, other signals and full disks while something is written.

Run: .venv/bin/python bench/endings.py [KILLS] [SIGNALS] [DISKS] [SEED]. Sends, mends, crates that
are packed, drawings, steps that are run and, in a window without a monitor, saves are ended at random
moments, or find no room (a tiny file system where that may be mounted, else a limit on the size of files).
Afterwards the target must be the old file or a whole new one, no process of the trial may be there a second
later, and nothing beside the target once the next run has started. Printed: each class with its count, and
every trial that fell short with what was wrong.
"""

from __future__ import annotations

import os
import random
import resource
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))

from gondrel.core.errors import GondrelError  # noqa: E402
from gondrel.core.formats.settings import SendSettings  # noqa: E402
from gondrel.core.model.store import BlobStore  # noqa: E402
from gondrel.core.register.crates import read_crate, verify  # noqa: E402
from gondrel.core.register.keeping import Author, put_model  # noqa: E402
from gondrel.core.register.opening import open_register  # noqa: E402
from gondrel.core.service.opening import open_crossing  # noqa: E402
from gondrel.core.service.receive import receive  # noqa: E402
from gondrel.core.service.write import write_model  # noqa: E402
from gondrel.core.sheet.dxf_in import read_dxf  # noqa: E402
from tests.builders import small_assembly  # noqa: E402
from tests.core.register.gears import two_gears  # noqa: E402

OLD = b"the old file\n"
MARK = "GONDREL_TRIAL"
REGISTER, STEPS = "reg.sqlite", "steps.toml"
_LONGEST = 120.0

WINDOW = """
import signal, sys
signal.signal(signal.SIGINT, signal.SIG_DFL)  # as the command does before it loads the window
from pathlib import Path
from gondrel.ui.shell.application import end_on_signals, make_application, open_window
app = make_application()
end_on_signals(app)
window = open_window()
session = window.session
def again(*_):
    if session.model is not None and not session.persistence.busy:
        session.persistence.save(Path(sys.argv[2]))
from PySide6.QtCore import QTimer
timer = QTimer(); timer.timeout.connect(again); timer.start(60)
QTimer.singleShot(0, lambda: session.open_file(sys.argv[1]))
app.exec()
"""


@dataclass
class Trial:
    """One run in a place of its own."""

    kind: str
    folder: Path
    source: Path
    mark: str
    out: Path = field(init=False)

    def __post_init__(self) -> None:
        names = {
            "send": "out.stp", "send xt": "out.x_b", "mend": "out.stp", "save": "out.crossing",
            "pack": "out.crate", "draw": "out.dxf", "arrange": "out.stp",
        }  # fmt: skip
        for name in ("out", "temporary", "state"):
            (self.folder / name).mkdir(parents=True, exist_ok=True)
        self.out = self.folder / "out" / names[self.kind]

    @property
    def command(self) -> list[str]:
        """The command line of the trial."""
        tool, source, out = [sys.executable, "-m", "gondrel.cli.main"], str(self.source), str(self.out)
        if self.kind == "save":
            return ["xvfb-run", "-a", sys.executable, "-c", WINDOW, source, out]
        if self.kind == "mend":
            return [*tool, "mend", source, "--out", out, "--force"]
        if self.kind == "draw":
            return [*tool, "draw", source, "--out", out, "--force"]
        if self.kind == "pack":
            register = str(self.source.with_name(REGISTER))
            return [*tool, "crate", "pack", "GN", "GS", "--register", register, "--out", out, "--force"]
        if self.kind == "arrange":
            steps = str(self.source.with_name(STEPS))
            tool += ["arrange", source, "--steps", steps, "--as", "step-ap242"]
            return [*tool, "--out", out, "--force"]
        target = "xt-binary" if self.kind == "send xt" else "step-ap242"
        return [*tool, "send", source, "--as", target, "--out", out, "--force"]

    def start(self, prepare: Callable[[], None] = lambda: None) -> subprocess.Popen[bytes]:
        """Start it."""
        surroundings = {
            **os.environ, MARK: self.mark, "TMPDIR": str(self.folder / "temporary"),
            "XDG_STATE_HOME": str(self.folder / "state"), "PYTHONPATH": str(ROOT),
            "XDG_CONFIG_HOME": str(self.folder / "state"),
        }  # fmt: skip

        def begin() -> None:
            signal.signal(signal.SIGINT, signal.SIG_DFL)  # what a shell starts behind itself ignores it
            prepare()

        return subprocess.Popen(
            self.command, env=surroundings, cwd=ROOT, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE,
            start_new_session=True, preexec_fn=begin,
        )  # fmt: skip

    def processes(self) -> list[int]:
        """Processes of the trial that are still there, the display of a window left out."""
        wanted = f"{MARK}={self.mark}".encode()
        found = []
        for entry in Path("/proc").iterdir():
            with suppress(OSError):
                if entry.name.isdigit() and wanted in (entry / "environ").read_bytes().split(b"\0"):
                    name = (entry / "cmdline").read_bytes()
                    if b"python" in name and b"Xvfb" not in name and b"xvfb-run" not in name:
                        found.append(int(entry.name))
        return found

    def own(self) -> int:
        """The process that is to be ended: that of Python, not what starts the display."""
        return min(self.processes(), default=0)

    def left(self) -> list[str]:
        """What lies about beside the target."""
        found = [
            p for name in ("out", "temporary") for p in (self.folder / name).rglob("*") if p != self.out
        ]
        kept = [p for p in found if not p.name.startswith((".X", "xvfb", "pymp"))]
        return [str(p.relative_to(self.folder)) for p in kept]

    def target(self) -> str:
        """What the target is: old, new, none or broken."""
        if not self.out.exists():
            return "none"
        data = self.out.read_bytes()
        if data == OLD:
            return "old"
        return "new" if self._is_whole(data) else "broken"

    def _is_whole(self, data: bytes) -> bool:
        if self.kind in ("send", "mend", "arrange"):
            return data.rstrip().endswith(b"END-ISO-10303-21;")
        if self.kind == "draw":
            return not read_dxf(str(self.out)).notes
        with tempfile.TemporaryDirectory() as store:
            try:
                if self.kind == "pack":
                    return not verify(read_crate(str(self.out)))
                if self.kind == "save":
                    return open_crossing(str(self.out), store).model is not None
                return any(True for _ in receive(str(self.out), store).bodies())
            except GondrelError:
                return False


def ended(trial: Trial, sign: int, after: float) -> list[str]:
    """Start, end by a signal after some seconds, and say what fell short."""
    trial.out.write_bytes(OLD)
    process = trial.start()
    with suppress(subprocess.TimeoutExpired):
        process.wait(after)
    if process.poll() is None and (own := trial.own()):
        os.kill(own, sign)
    time.sleep(1.0)
    wrong = []
    if still := trial.processes():
        wrong.append(f"{len(still)} processes after a second")
        for number in still:
            with suppress(ProcessLookupError):
                os.kill(number, signal.SIGKILL)
    with suppress(ProcessLookupError):
        os.killpg(process.pid, signal.SIGKILL)
    process.communicate()
    if trial.target() not in ("old", "new"):
        wrong.append(f"the target is {trial.target()}")
    if sign != signal.SIGKILL and (left := trial.left()):
        wrong.append(f"left behind: {', '.join(left[:4])}")
    if trial.kind != "save":
        following = trial.start()
        following.communicate(timeout=_LONGEST)
        if left := trial.left():
            wrong.append(f"left after the next run: {', '.join(left[:4])}")
        if following.returncode not in (0, 1) or trial.target() != "new":
            wrong.append(f"the next run ended with {following.returncode}")
    return wrong


def filled(trial: Trial, room: int, *, mounted: bool) -> list[str]:
    """Run with so many bytes of room for the target, and say what fell short."""
    folder = trial.folder / "out"
    if mounted:
        subprocess.run(["mount", "-t", "tmpfs", "-o", f"size={room}", "none", str(folder)], check=True)
    try:
        trial.out.write_bytes(OLD)
        limit = (lambda: None) if mounted else (
            lambda: resource.setrlimit(resource.RLIMIT_FSIZE, (room, room)))  # fmt: skip
        process = trial.start(limit)
        _, told = process.communicate(timeout=_LONGEST)
        wrong = []
        state = trial.target()
        if state not in ("old", "new"):
            wrong.append(f"the target is {state}")
        if (process.returncode == 0) != (state == "new"):
            wrong.append(f"ended with {process.returncode} and the target is {state}")
        if process.returncode and b"internal error" in told:
            wrong.append("an internal error was told")
        if process.returncode and not told.strip():
            wrong.append("nothing was told")
        if left := trial.left():
            wrong.append(f"left behind: {', '.join(left[:4])}")
        return wrong
    finally:
        if mounted:
            subprocess.run(["umount", "-l", str(folder)], check=True)


def prepare(folder: Path, source: Path) -> None:
    """Lay a register and a steps file beside the source."""
    (folder / STEPS).write_text('version = 1\n[[step]]\ndo = "merge"\n')
    opened, store = open_register(str(folder / REGISTER)), BlobStore(folder / "gears")
    with opened.writing() as connection:
        put_model(connection, opened.store, two_gears(store), store, Author("anna"))
    opened.close()


def main() -> None:
    """Try, sort, print."""
    given = [int(word) for word in sys.argv[1:]]
    kills, signals, disks, seed = (*given, *(100, 40, 20, 1)[len(given) :])
    chance = random.Random(seed)
    classes: Counter[tuple[str, str]] = Counter()
    worst = []
    began = time.monotonic()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        store = BlobStore(folder / "store")
        source = folder / "source.stp"
        source.write_bytes(write_model(
            small_assembly(store), "step-ap242", SendSettings(), store, {}, name="source"))  # fmt: skip
        prepare(folder, source)
        kinds = ["send", "send xt", "mend", "pack", "draw", "arrange", "save"]
        lasts = {}
        for kind in kinds[:-1]:
            trial = Trial(kind, folder / f"timed {kind}", source, f"{seed}-{kind}")
            start = time.monotonic()
            trial.start().communicate(timeout=_LONGEST)
            lasts[kind] = time.monotonic() - start
        lasts["save"] = 2.5 * max(lasts.values())
        plan = [("kill", signal.SIGKILL)] * kills
        plan += [(s.name, s) for s in (signal.SIGTERM, signal.SIGINT) for _ in range(signals // 2)]
        for number, (word, sign) in enumerate(plan):
            kind = kinds[number % len(kinds)]
            trial = Trial(kind, folder / f"{number}", source, f"{seed}-{number}")
            wrong = ended(trial, sign, chance.uniform(0.05, 1.05) * lasts[kind])
            classes[f"{word} of {kind}", "held" if not wrong else "fell short"] += 1
            worst += [f"{number}: {word} of {kind}: {each}" for each in wrong]
            shutil.rmtree(trial.folder, ignore_errors=True)
        mounted = os.geteuid() == 0 and shutil.which("mount") is not None
        for number in range(disks):
            kind = kinds[number % (len(kinds) - 1)]
            trial = Trial(kind, folder / f"disk {number}", source, f"{seed}-disk-{number}")
            wrong = filled(trial, chance.choice([4096, 8192, 12288, 16384, 24576, 40960]), mounted=mounted)
            classes[f"full disk of {kind}", "held" if not wrong else "fell short"] += 1
            worst += [f"disk {number}: {kind}: {each}" for each in wrong]
    for line in worst:
        print(line)
    for (what, word), count in sorted(classes.items()):
        print(f"{what:24} {word:12} {count}")
    print(f"{sum(classes.values())} trials in {time.monotonic() - began:.0f} s, {len(worst)} faults")


if __name__ == "__main__":
    main()

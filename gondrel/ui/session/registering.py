"""The register as the window shows it. No widgets."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, Signal

from gondrel.core.errors import GondrelError
from gondrel.core.model.history import History
from gondrel.core.reports.figures import count_of
from gondrel.core.service.crossing import Crossing
from gondrel.core.work.files import state_folder
from gondrel.ui.session.host import SessionHost

__all__ = ["Registering"]

_REGISTER = "gondrel.core.service.register:register_command"
_CRATE = "gondrel.core.service.crates:crate_command"
_FILE = "register.sqlite"
_BUSY = "register-busy"
"""The code of the error that says that somebody else changed it meanwhile."""

Json = dict[str, Any]


class Registering(QObject):
    """Items of the register, the one that is looked at, and what is done with them."""

    changed = Signal()
    crate_changed = Signal()
    pictured = Signal()
    """The picture of the revision that is looked at is there."""
    comparable = Signal(object, tuple)
    """A revision is open, and the model of another is there to be compared with it, with both names."""
    previewed = Signal(str, str, tuple, dict)
    """What repointing would change is there: old and new, within what, and what changes."""

    def __init__(self, session: SessionHost, parent: QObject) -> None:
        super().__init__(parent)
        self.session = session
        self.address = ""
        self.items: list[Json] = []
        self.scheme = ""
        self.shown: Json | None = None
        self.uses: Json | None = None
        self.picture: bytes | None = None
        self._seen: dict[str, int] = {}
        self.crate: Json | None = None
        self.crate_path = ""
        self.wanted = ""

    @property
    def place(self) -> str:
        """The address of the register: chosen, or one's own."""
        return self.address or str(state_folder() / _FILE)

    def _ask(
        self, what: str, args: Json, doing: str, then: Callable[[Json], None], *, beside: bool = False
    ) -> None:
        args = {"who": self.session.settings.now.author, **args}
        self.session.run_job(
            _REGISTER, (what, self.place, "", args, self.session.folder), doing, then, self._failed,
            quiet=beside, beside=beside,
        )  # fmt: skip

    def _failed(self, error: GondrelError) -> None:
        """Say why, and show again what is there now: somebody else may have changed it."""
        self.session.failed.emit(error)
        if error.code == _BUSY:
            self.look_again()

    def _stamps(self) -> dict[str, int]:
        """The stamps of what is shown, by which a change meanwhile is told."""
        there = self.shown["revisions"] if self.shown is not None else ()
        return {f"{each['number']}/{each['revision']}": each["stamp"] for each in there}

    def look(self, text: str = "") -> None:
        """List the items whose number or name has a text in it."""
        self.wanted = text

        def take(found: Json) -> None:
            if self.wanted == text:
                self.items, self.scheme = found["items"], found["scheme"]
                self.changed.emit()

        self._ask("list", {"text": text}, "looking into the register", take)

    def look_again(self) -> None:
        """List items, and look at the chosen one, as they are now."""
        if self.shown is None:
            self.look(self.wanted)
        else:
            one = self.shown["revision"]
            self._again(f"{one['number']}/{one['revision']}")

    def choose_scheme(self, scheme: str) -> None:
        """Choose how the revisions of an empty register are called."""
        self._ask("scheme", {"scheme": scheme}, "choosing a scheme", lambda _: self.look(self.wanted))

    def show(self, name: str) -> None:
        """Look at a revision: its item's revisions, what happened, what uses it."""

        def take(found: Json) -> None:
            if self.shown is None or self.shown["revision"]["content"] != found["revision"]["content"]:
                self.picture = None
            self.shown = found
            self.changed.emit()

        def pictured(found: Json) -> None:
            self.picture = found["picture"]
            self.pictured.emit()

        def used(found: Json) -> None:
            self.uses = found
            self.changed.emit()

        self._ask("show", {"name": name}, f"looking at {name}", take)
        self._ask("where-used", {"name": name}, f"looking where {name} is used", used)
        self._ask("preview", {"name": name}, f"drawing {name}", pictured, beside=True)

    def put(self, *, next_major: bool = False) -> None:
        """Put the open model in."""
        model = self.session.model
        if model is None:
            return

        def done(found: Json) -> None:
            new = [each for each in found["put"] if each["what"] != "recognised"]
            said = ", ".join(each["name"] for each in new[:3])
            more = f" and {len(new) - 3} more" if len(new) > 3 else ""
            told = f"Put in: {said}{more}" if new else "Everything of it is in the register already"
            self.session.notice.emit(told)
            self.look(self.wanted)

        self._ask("add", {"model": model, "next_major": next_major}, "putting the model in", done)

    def release(self, name: str, *, with_all: bool) -> None:
        """Release a revision, with all it uses where that is wished for."""

        def done(found: Json) -> None:
            self.session.notice.emit(f"Released {len(found['released'])}: {found['released'][-1]}")
            self._again(name)

        args = {"name": name, "all": with_all, "seen": self._stamps()}
        self._ask("release", args, f"releasing {name}", done)

    def withdraw(self, name: str) -> None:
        """Withdraw a revision."""
        args = {"name": name, "seen": self._stamps()}
        self._ask("withdraw", args, f"withdrawing {name}", lambda _: self._again(name))

    def look_at_repointing(self, old: str, new: str, within: tuple[str, ...]) -> None:
        """Say what using another revision where one is used would change."""

        def done(found: Json) -> None:
            self._seen = found["seen"]
            self.previewed.emit(old, new, within, found)

        args = {"old": old, "new": new, "within": within, "preview": True, "pictures": True}
        self._ask("repoint", args, f"looking at repointing {old}", done)

    def repoint(
        self, old: str, new: str, within: tuple[str, ...], only: dict[str, list[int]],
        then: Callable[[], object],
    ) -> None:  # fmt: skip
        """Use another revision where one is used, as it was looked at; then is called when it is done."""

        def done(found: Json) -> None:
            count = len(found["changes"])
            self.session.notice.emit(f"{count_of(count, 'assembly')} changed: {new} is used")
            then()
            self._again(new)

        args = {"old": old, "new": new, "within": within, "only": only, "seen": self._seen}
        self._ask("repoint", args, f"repointing {old}", done)

    def _again(self, name: str) -> None:
        self.look(self.wanted)
        self.show(name)

    def pack(self, names: tuple[str, ...], out: str, *, used_only: bool) -> None:
        """Pack revisions with all they use into a crate."""

        def done(found: Json) -> None:
            count = len(found["revisions"])
            self.session.notice.emit(f"Packed {count} revisions into {Path(out).name}")

        args = {"names": names, "out": out, "used_only": used_only}
        self._ask_crate("pack", args, f"packing {', '.join(names)}", done)

    def look_into(self, path: str) -> None:
        """Look into a crate before anything of it is taken in."""

        def done(found: Json) -> None:
            self.crate, self.crate_path = found, path
            self.crate_changed.emit()

        self._ask_crate("look", {"path": path}, f"looking into {Path(path).name}", done)

    def unpack(self, as_copy: str, resolved: dict[str, str]) -> None:
        """Take the crate that is looked at in."""

        def done(found: Json) -> None:
            new = sum(each["what"] != "recognised" for each in found["put"])
            self.session.notice.emit(f"Taken in: {new} revisions, {len(found['put']) - new} were here")
            self.look(self.wanted)
            self.look_into(self.crate_path)

        args = {"path": self.crate_path, "as_copy": as_copy, "resolved": resolved}
        self._ask_crate("unpack", args, f"taking in {Path(self.crate_path).name}", done)

    def _ask_crate(self, what: str, args: Json, doing: str, then: Callable[[Json], None]) -> None:
        args = {"who": self.session.settings.now.author, **args}
        self.session.run_job(_CRATE, (what, self.place, "", args, self.session.folder), doing, then)

    def take_out(self, name: str, then: Callable[[], None] = lambda: None) -> None:
        """Open a revision with all it uses as a crossing; then is called when it is there."""

        def done(found: Json) -> None:
            label = found["name"].replace("/", " ")
            crossing = Crossing(label, History.begin(found["model"], f"Take out {found['name']}"))
            self.session.take_crossing(crossing, None, dirty=True)
            then()

        self._ask("open", {"name": name}, f"taking {name} out", done)

    def compare(self, one: str, other: str) -> None:
        """Open a revision as a crossing, and another beside it to be compared with it."""

        def beside(found: Json) -> None:
            self.comparable.emit(found["model"], (one, other))

        def opened() -> None:
            self._ask("open", {"name": other}, f"taking {other} out", beside)

        self.take_out(one, opened)

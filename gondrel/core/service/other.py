"""The other reader of files that were sent: aside, in a process of its own, while ours reads it too."""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path

from gondrel.core.carriage.other import OtherLine, compare_nodes, compare_other, unread
from gondrel.core.errors import GondrelError
from gondrel.core.formats.registry import by_content
from gondrel.core.kernel.exchange.stock import read_as_other
from gondrel.core.model.body import BodyFacts
from gondrel.core.model.codec import from_plain, to_plain
from gondrel.core.model.other import OtherReading
from gondrel.core.model.snapshot import Model
from gondrel.core.work import Aside, Progress, begin_aside

__all__ = ["OtherReader"]

_STOCK = ("step", "iges")
"""Formats that the kernel's stock document reader reads."""


class OtherReader:
    """Reads files as another receiver does, from now on.

    Args:
        paths: of files that stand side by side; meant: measures of the bodies that they should hold.
        wanted: whether to; without, the lines say that it was not.
    """

    def __init__(
        self, paths: Sequence[str], meant: Sequence[BodyFacts] = (), *, wanted: bool = True
    ) -> None:
        known = by_content(paths[0])
        form = known.key
        self._why = "" if wanted else "left out as the settings say"
        if wanted and form not in _STOCK:
            self._why = f"there is no other reader of {known.title}; what its nodes say stands in for one"
        self._aside: Aside | None = None
        if not self._why:
            absolute = [str(Path(path).resolve()) for path in paths]
            self._aside = begin_aside(lambda: _read(absolute, form, meant))

    def lines(
        self, model: Model, facts: Mapping[str, BodyFacts], progress: Progress
    ) -> tuple[OtherLine, ...]:
        """What the other reading has otherwise than ours; waits for it."""
        if self._aside is None:
            return (*unread(self._why), *compare_nodes(model, facts))
        data = self._aside.part(lambda: progress.at(0.5, "Waiting for the other reader"))
        self.close()
        answer = json.loads(data) if data else {"error": "it ended without a word"}
        if "error" in answer:
            return unread(f"it failed over the file: {answer['error']}")
        card = model.provenance.file if model.provenance is not None else None
        is_loose = card is not None and card.format == "iges" and not card.count("solids")
        return compare_other(model, facts, from_plain(answer, OtherReading), is_loose=is_loose)

    def close(self) -> None:
        """End a reading that still goes on."""
        if self._aside is not None:
            self._aside.end()


def _read(paths: Sequence[str], form: str, meant: Sequence[BodyFacts]) -> Iterator[bytes]:
    try:
        readings = [read_as_other(path, form, meant) for path in paths]
        plain = to_plain(OtherReading.joined(readings))
    except GondrelError as error:
        plain = {"error": error.message}
    yield json.dumps(plain).encode("ascii")

"""A progress object that any long function takes and reports to."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from typing import TypeVar

__all__ = ["SILENT", "Cancelled", "Progress"]

T = TypeVar("T")
Report = Callable[[float, str], None]
Emit = Callable[[object], None]


class Cancelled(BaseException):
    """The user asked for the work to end.

    Derives from BaseException so that a recovery ``except Exception`` can't swallow it.
    """


def _no_report(share: float, text: str) -> None:
    return None


def _no_emit(partial: object) -> None:
    return None


class Progress:
    """Where a piece of work reports its share done, its partial results, and learns of a cancel.

    Args:
        report: called with a share (0 to 1) and a text; raises Cancelled to end the work.
        emit: called with each partial result.
        start, end: the part of the whole that this object stands for.
        deadly: texts of steps that ended the process when this work was tried before.
    """

    def __init__(
        self,
        report: Report = _no_report,
        emit: Emit = _no_emit,
        *,
        start: float = 0.0,
        end: float = 1.0,
        deadly: frozenset[str] = frozenset(),
    ) -> None:
        self._report = report
        self._emit = emit
        self._start = start
        self._end = end
        self._deadly = deadly

    def is_deadly(self, text: str) -> bool:
        """Whether the step with this text ended the process when this was tried before: leave it out."""
        return text in self._deadly

    def at(self, share: float, text: str) -> None:
        """Report a share (0 to 1) of this piece of work. Raises Cancelled when asked to end."""
        bounded = min(max(share, 0.0), 1.0)
        self._report(self._start + bounded * (self._end - self._start), text)

    def part(self, start: float, end: float) -> Progress:
        """A progress for the piece of this work between two shares."""
        span = self._end - self._start
        return Progress(
            self._report, self._emit, start=self._start + start * span, end=self._start + end * span,
            deadly=self._deadly,
        )  # fmt: skip

    def hearing(self, emit: Emit) -> Progress:
        """The same, its partial results given to somebody else, who may give them on."""
        return Progress(self._report, emit, start=self._start, end=self._end, deadly=self._deadly)

    def each(self, items: Iterable[T], text: str) -> Iterator[T]:
        """Yield the items one by one, reporting before each. Raises Cancelled when asked to end."""
        sequence: Sequence[T] = items if isinstance(items, Sequence) else list(items)
        for index, item in enumerate(sequence):
            self.at(index / max(len(sequence), 1), text)
            yield item

    def give(self, partial: object) -> None:
        """Hand out a partial result while the work goes on."""
        self._emit(partial)


SILENT = Progress()

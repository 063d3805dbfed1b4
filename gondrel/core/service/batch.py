"""Batches: which files of a folder become which files of another, what was done already, the table of it.

What was done is kept in a journal beside the sent files, one JSON object a line. A file is done already
when one of the same content was sent by the same choices and what came of it is there as it was.
"""

from __future__ import annotations

import hashlib
import json
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import asdict, dataclass, fields, is_dataclass
from fnmatch import fnmatch
from pathlib import Path
from typing import Any

from gondrel.core.errors import InputError, UsageError
from gondrel.core.model.tables import write_rows
from gondrel.core.service.catalogue import model_suffixes
from gondrel.core.work.files import sha256_of_file

__all__ = [
    "HEADINGS", "JOURNAL", "Journal", "Outcome", "Task", "choices_text", "counts_of", "found_files",
    "keep_table",
    "outcome_object", "plan", "table_rows",
]  # fmt: skip

JOURNAL = ".gondrel-batch.jsonl"


@dataclass(frozen=True, slots=True)
class Task:
    """A file to be sent, and where to."""

    source: str
    target: str


@dataclass(frozen=True, slots=True)
class Outcome:
    """What came of a file.

    Args:
        verdict: of the proof, "failed" where nothing was sent; unannounced: losses that no forecast said.
        sha256, choices: of the content and of what was chosen; sent_sha256: of the file that was sent.
        again: whether it was done before and left as it was; sent: the file, or the first of several.
    """

    source: str
    target: str
    verdict: str
    seconds: float
    error: str = ""
    unannounced: int = 0
    sha256: str = ""
    choices: str = ""
    sent_sha256: str = ""
    again: bool = False
    sent: str = ""


def found_files(folder: str, *, pattern: str = "*", recursive: bool = True, beside: str = "") -> list[str]:
    """The model files of a folder, in order of name.

    Args:
        pattern: of file names, with * and ?; beside: a folder that is left out.

    Raises:
        InputError: when there is no such folder.
    """
    root = Path(folder)
    if not root.is_dir():
        raise InputError("there is no such folder", file=folder)
    endings = model_suffixes()
    left_out = Path(beside).resolve() if beside else None
    found = root.rglob("*") if recursive else root.glob("*")
    return sorted(
        str(path) for path in found
        if path.suffix.lower() in endings and path.is_file() and fnmatch(path.name, pattern)
        and not (left_out is not None and path.resolve().is_relative_to(left_out))
    )  # fmt: skip


def plan(sources: Sequence[str], folder: str, to: str, suffix: str, *, apart: bool = False) -> list[Task]:
    """Where each file goes: the same place below the target folder, with the ending of what is written.
    Names that would meet, small and capital alike, are told apart by a number.

    Args:
        apart: whether each gets a folder of its own, since it goes as several files.
    """
    root = Path(folder)
    taken: set[str] = set()
    tasks = []
    for source in sources:
        path = Path(source)
        inner = path.relative_to(root) if path.is_relative_to(root) else Path(path.name)
        stem = inner.name.removesuffix(".gz").rpartition(".")[0] or inner.stem
        number, wanted = 1, inner.with_name(stem + suffix)
        while str(wanted).casefold() in taken:
            number += 1
            wanted = inner.with_name(f"{stem}-{number}{suffix}")
        if apart:
            wanted = wanted.with_suffix("") / wanted.name
        taken.add(str(wanted).casefold())
        tasks.append(Task(source, str(Path(to) / wanted)))
    return tasks


def choices_text(*choices: Any) -> str:
    """A hash of what was chosen for a batch."""
    return hashlib.sha256(repr([_ordered(each) for each in choices]).encode()).hexdigest()


def _ordered(value: Any) -> Any:
    """A value whose text is the same in every process: sets in order."""
    if is_dataclass(value):
        return [(each.name, _ordered(getattr(value, each.name))) for each in fields(value)]
    if isinstance(value, frozenset | set):
        return sorted(map(repr, value))
    if isinstance(value, tuple | list):
        return [_ordered(each) for each in value]
    return value


class Journal:
    """What was done, kept line by line beside the sent files."""

    def __init__(self, to: str) -> None:
        self.path = Path(to) / JOURNAL
        self._known: dict[tuple[str, str, str], Outcome] = {}
        names = {each.name for each in fields(Outcome)}
        try:
            lines = self.path.read_text("utf-8").splitlines()
        except OSError:
            lines = []
        for line in lines:
            try:
                plain = json.loads(line)
                outcome = Outcome(**{key: value for key, value in plain.items() if key in names})
            except (ValueError, TypeError):
                continue  # a line that a killed run left half written
            self._known[outcome.target, outcome.sha256, outcome.choices] = outcome

    def done(self, task: Task, sha256: str, choices: str) -> Outcome | None:
        """What came of a file before, None where it has to be done: it never was, it failed, or what was
        sent is no longer there."""
        known = self._known.get((task.target, sha256, choices))
        if known is None or known.verdict == "failed" or not sha256:
            return None
        return known if sha256_of_file(known.sent or task.target) == known.sent_sha256 else None

    def targets(self) -> set[str]:
        """Files that batches made here."""
        return {target for target, _, _ in self._known}

    def add(self, outcome: Outcome) -> None:
        """Keep what came of a file. Raises OSError."""
        self.path.parent.mkdir(parents=True, exist_ok=True)
        with self.path.open("a", encoding="utf-8") as stream:
            stream.write(json.dumps(asdict(outcome)) + "\n")
        self._known[outcome.target, outcome.sha256, outcome.choices] = outcome


def counts_of(outcomes: Iterable[Outcome]) -> dict[str, int]:
    """How many files came how."""
    counts = Counter(outcome.verdict for outcome in outcomes)
    return {word: counts[word] for word in ("carried", "altered", "lost", "failed")}


HEADINGS = ("File", "Sent as", "Verdict", "Unannounced", "Seconds", "Why")


def table_rows(outcomes: Iterable[Outcome]) -> Iterator[tuple[str, str, str, str, str, str]]:
    """The table of a batch, for people."""
    for each in outcomes:
        target = each.sent or each.target if each.verdict != "failed" else ""
        verdict = f"{each.verdict} (before)" if each.again else each.verdict
        yield (
            each.source, target, verdict, str(each.unannounced), f"{each.seconds:.1f}", each.error
        )  # fmt: skip


def outcome_object(outcome: Outcome) -> Mapping[str, Any]:
    """A file of the object of ``gondrel batch``."""
    made: dict[str, Any] = {
        "path": outcome.source,
        "sent": [outcome.sent or outcome.target] if outcome.verdict != "failed" else [],
        "verdict": outcome.verdict,
        "seconds": round(outcome.seconds, 3),
        "unannounced_losses": outcome.unannounced,
        "again": outcome.again,
    }
    return made | ({"error": outcome.error} if outcome.error else {})


def keep_table(path: str, outcomes: Sequence[Outcome]) -> None:
    """The table of a batch as CSV, XLSX or HTML, by the ending.

    Raises:
        UsageError: for another ending. WriteFailed: when the disk refuses.
    """
    if Path(path).suffix.lower() not in (".csv", ".xlsx", ".html"):
        raise UsageError("a table is kept as .csv, .xlsx or .html", hint=path)
    write_rows(path, "Batch", HEADINGS, list(table_rows(outcomes)))

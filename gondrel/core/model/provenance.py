"""Where a model came from, and what there is to say about how it came."""

from __future__ import annotations

from dataclasses import dataclass, field
from pathlib import Path

from gondrel.core.model.census import Census

__all__ = ["DEADLY", "FileFacts", "Note", "Provenance", "Writer"]


DEADLY = "the kernel died of it or did not end; the file was read again without it"
"""What is told of something that could not be made, however often it was tried."""


@dataclass(frozen=True, slots=True)
class Note:
    """Something to tell about a model: a stable code, a sentence, and the place it concerns."""

    code: str
    text: str
    where: str = ""


@dataclass(frozen=True, slots=True)
class Writer:
    """Who wrote a file, with what and when, in the file's own words.

    Args:
        description: what the file says it is; authorisation: who let it go.
    """

    system: str = ""
    translator: str = ""
    author: str = ""
    organisation: str = ""
    date: str = ""
    description: str = ""
    authorisation: str = ""


@dataclass(frozen=True, slots=True)
class FileFacts:
    """The file card: what a file says of itself, read without the kernel.

    Args:
        bytes: size of the file.
        length_unit: key of the unit, "" when the file gives none.
        mm_per_unit: millimetres in one unit.
        uncertainty: smallest distance the sender tells apart, mm, None when not given.
        counts: what the file holds, by contract word (products, solids, faces, ...).
        title: the format's name for people.
        diameters: different diameters of cylinders and circles, mm, up to 500; extent: largest extent of
            the points, mm, 0 when not looked at.
        never: what no file of this format brings, in words.
        layers: name of each layer and how many items are on it, where the records say.
    """

    path: str
    bytes: int
    format: str
    variant: str = ""
    schema: str = ""
    schema_text: str = ""
    length_unit: str = ""
    mm_per_unit: float = 1.0
    angle_unit: str = "radian"
    uncertainty: float | None = None
    written_by: Writer = field(default_factory=Writer)
    counts: tuple[tuple[str, int], ...] = ()
    missing_files: tuple[str, ...] = ()
    notes: tuple[Note, ...] = ()
    title: str = ""
    diameters: tuple[float, ...] = ()
    extent: float = 0.0
    never: str = ""
    layers: tuple[tuple[str, int], ...] = ()

    @property
    def label(self) -> str:
        """The format for people: its title and its schema in short."""
        schema = self.schema.rpartition("_")[2] if self.schema.startswith("SCH_") else self.schema
        title = self.title or self.format.upper()
        return schema if schema.startswith(title) else f"{title} {schema}".strip()

    def count(self, thing: str) -> int:
        """How many of a thing the file holds, 0 when it is not counted."""
        return dict(self.counts).get(thing, 0)


@dataclass(frozen=True, slots=True)
class Provenance:
    """The source of a received model: the file's card and hash, and the settings it was read with.

    Args:
        files: path and hash of every further file it was read from.
        census: what became of the records of these files, None where it was not taken.
    """

    file: FileFacts
    sha256: str
    settings: tuple[tuple[str, str], ...] = ()
    received: str = ""
    files: tuple[tuple[str, str], ...] = ()
    census: Census | None = None

    def places(self) -> list[tuple[str, str, str]]:
        """Where each file it was read from lies beside the first, its path and its hash: laid out so, it
        opens again. What lies elsewhere is put beside the first, where it is looked for by its name."""
        main = Path(self.file.path).absolute()
        found = [(main.name, str(main), self.sha256)]
        for path, digest in self.files:
            inner = Path(path).absolute()
            is_beneath = inner.is_relative_to(main.parent)
            place = inner.relative_to(main.parent).as_posix() if is_beneath else inner.name
            found.append((place, str(inner), digest))
        return found

"""What a format declares: how it is recognised, who reads and writes it, what it can carry."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from enum import Enum
from importlib import import_module
from typing import TYPE_CHECKING, Protocol, cast

from gondrel.core.model.carries import Carries, Fated
from gondrel.core.model.later import LoadedShapes

if TYPE_CHECKING:  # a declaration is looked at where nothing is read or written
    from gondrel.core.formats.meshes import Piece
    from gondrel.core.formats.settings import ReceiveSettings, SendSettings
    from gondrel.core.model.body import BodyFacts
    from gondrel.core.model.origins import Found, RecordView
    from gondrel.core.model.product import Product
    from gondrel.core.model.provenance import FileFacts
    from gondrel.core.model.snapshot import Model
    from gondrel.core.model.store import BlobStore
    from gondrel.core.work import Progress

__all__ = ["Content", "Format", "RecordSource", "Target"]


@dataclass(frozen=True, slots=True)
class Target:
    """One thing to send as: a kind of the command line contract.

    Args:
        unit: key of the length unit where the format knows only one; empty where it is chosen.
        note: what it keeps, in a few words.
        links: whether an assembly may be several files that refer to each other.
        surfaces: whether solids go as loose surfaces in any case.
    """

    kind: str
    title: str
    suffix: str
    carries: Carries
    schema: str = ""
    unit: str = ""
    note: str = ""
    links: bool = True
    surfaces: bool = False


class Content(Enum):
    """What the files of a format hold: exact bodies, or triangles."""

    EXACT = "exact"
    MESH = "mesh"


class ReadsCard(Protocol):
    """Says what a file is without loading it."""

    def __call__(self, path: str) -> FileFacts:
        """The card. Raises InputError."""


class Reads(Protocol):
    """Reads a file into the store."""

    def __call__(
        self, path: str, store: BlobStore, *, settings: ReceiveSettings, progress: Progress
    ) -> Model:
        """The model as the file has it. Raises InputError, KernelRefused."""


class ReadsStructure(Protocol):
    """Reads a file without its shapes."""

    def __call__(self, path: str, store: BlobStore, *, progress: Progress) -> Model | None:
        """The model whose shapes wait; None where the file has to be read whole. Raises InputError."""


class ReadsShapes(Protocol):
    """Reads shapes that wait."""

    def __call__(
        self, model: Model, path: str, wanted: Sequence[int], store: BlobStore, *, progress: Progress
    ) -> LoadedShapes:
        """The shapes by the records they wait under. Raises InputError, UsageError, KernelRefused."""


class Writes(Protocol):
    """Writes a model of exact bodies."""

    def __call__(
        self,
        model: Model,
        target: Target,
        settings: SendSettings,
        store: BlobStore,
        facts: Mapping[str, BodyFacts],
        *,
        name: str,
        progress: Progress,
    ) -> bytes:
        """The bytes of the file. Raises OutputError, KernelRefused."""


class WritesLinked(Protocol):
    """Writes an assembly as several files that refer to each other."""

    def __call__(
        self,
        model: Model,
        target: Target,
        settings: SendSettings,
        store: BlobStore,
        facts: Mapping[str, BodyFacts],
        *,
        name: str,
        names_of: Callable[[Model, Iterable[Product]], Mapping[str, str]],
        progress: Progress,
    ) -> dict[str, bytes]:
        """The bytes of each file by its name. Raises OutputError, KernelRefused."""


class WritesMesh(Protocol):
    """Writes pieces of a mesh."""

    def __call__(self, pieces: Sequence[Piece], settings: SendSettings, name: str) -> dict[str, bytes]:
        """The bytes of each file by its name."""


class Foresees(Protocol):
    """Says what becomes of single items."""

    def __call__(
        self,
        model: Model,
        store: BlobStore,
        target: Target,
        settings: SendSettings,
        *,
        progress: Progress,
    ) -> Iterable[Fated]:
        """Items that fare otherwise than their thing does. Raises KernelRefused."""


class Recognises(Protocol):
    """Knows a file of a format that no fixed bytes begin."""

    def __call__(self, head: bytes, path: str) -> bool:
        """Whether a file is one, by its first bytes and what else is in it."""


class NamesProducts(Protocol):
    """Says which products a file holds, for those who look for one."""

    def __call__(self, path: str) -> set[str]:
        """Their numbers and names; none when it can't be read."""


Ends = tuple[float, ...]
"""Coordinates of the start and the end of an edge, six numbers, or none."""


class RecordSource(Protocol):
    """The records of a file for people to read."""

    noun: str
    """What stands before the number of a record."""

    lists_edges: bool
    """Whether the edges of a body stand in one record, and none has one of its own."""

    def view(self, number: int) -> RecordView | None:
        """A record, None where the file has none of this number."""

    def find(self, query: str) -> list[Found]:
        """Records by their type, or by a text they hold."""
        ...

    def colour_of(self, number: int) -> int:
        """The record that gives one its colour, 0 for none of its own."""
        ...

    def property_of(self, number: int, key: str) -> int:
        """The record that gives one a property of this key, 0 where none does."""
        ...

    def edges_of(self, face: int) -> dict[int, Ends]:
        """The records of the edges of a face, each with its start and end in the file's own unit; without
        those where the file does not say, and none where it has no records of edges."""
        ...

    def close(self) -> None:
        """Let go of the file."""


class OpensSource(Protocol):
    """Opens a file to look at its records."""

    def __call__(self, path: str) -> RecordSource:
        """Its records. Raises InputError."""


@dataclass(frozen=True, slots=True)
class Format:
    """A format's declaration. Functions are named by text ("module:function") and loaded on first use.

    Args:
        key: the contract's word for the format; order: where its targets stand among those of others.
        suffixes: endings of its files; starts: byte strings the content may start with.
        holds: what its files hold; never: what no file of it brings, in words.
        card: a ReadsCard; read: a Reads; write: a Writes, or a WritesMesh where it holds triangles; empty
            where it is read only.
        link: a WritesLinked, empty where an assembly is one file.
        foresee: a Foresees; empty when the target's table says it all.
        recognise: a Recognises; empty when it is known by its first bytes.
        names: a NamesProducts; empty where nobody looks into it for a missing file.
        source: an OpensSource; empty where its records are not shown.
        structure, shapes: a ReadsStructure and a ReadsShapes; empty where files are read whole only.
    """

    key: str
    title: str
    suffixes: tuple[str, ...]
    starts: tuple[bytes, ...]
    card: str
    read: str
    write: str
    targets: tuple[Target, ...] = field(default=())
    foresee: str = ""
    link: str = ""
    recognise: str = ""
    names: str = ""
    holds: Content = Content.EXACT
    never: str = ""
    order: int = 9
    source: str = ""
    structure: str = ""
    shapes: str = ""

    @property
    def is_mesh(self) -> bool:
        """Whether it holds triangles only."""
        return self.holds is Content.MESH

    @property
    def reads_card(self) -> ReadsCard:
        """The reader of cards."""
        return cast(ReadsCard, _loaded(self.card))

    @property
    def reads(self) -> Reads:
        """The reader."""
        return cast(Reads, _loaded(self.read))

    @property
    def writes(self) -> Writes:
        """The writer of exact bodies. Raises LookupError where there is none."""
        if self.is_mesh or not self.write:
            raise LookupError(f"{self.title} has no writer of exact bodies")
        return cast(Writes, _loaded(self.write))

    @property
    def writes_mesh(self) -> WritesMesh:
        """The writer of triangles. Raises LookupError where there is none."""
        if not self.is_mesh or not self.write:
            raise LookupError(f"{self.title} has no writer of triangles")
        return cast(WritesMesh, _loaded(self.write))

    @property
    def writes_linked(self) -> WritesLinked | None:
        """The writer of assemblies in several files, where there is one."""
        return cast(WritesLinked, _loaded(self.link)) if self.link else None

    @property
    def foresees(self) -> Foresees | None:
        """What it foresees of single items, if anything."""
        return cast(Foresees, _loaded(self.foresee)) if self.foresee else None

    @property
    def recognises(self) -> Recognises | None:
        """How it is known where fixed bytes do not say it."""
        return cast(Recognises, _loaded(self.recognise)) if self.recognise else None

    @property
    def opens_source(self) -> OpensSource | None:
        """How its records are looked at, where they can be."""
        return cast(OpensSource, _loaded(self.source)) if self.source else None

    @property
    def reads_structure(self) -> ReadsStructure | None:
        """The reader of files without their shapes, where there is one."""
        return cast(ReadsStructure, _loaded(self.structure)) if self.structure else None

    @property
    def reads_shapes(self) -> ReadsShapes | None:
        """The reader of shapes that wait, where there is one."""
        return cast(ReadsShapes, _loaded(self.shapes)) if self.shapes else None

    @property
    def names_products(self) -> NamesProducts | None:
        """Which products a file holds, where it can be asked."""
        return cast(NamesProducts, _loaded(self.names)) if self.names else None


def _loaded(named: str) -> object:
    module, _, name = named.partition(":")
    return getattr(import_module(module), name)

"""The entities of an IGES file for people to read, with what points to what."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cached_property
from pathlib import Path

from gondrel.core.formats.iges.entities import links_of, name_of, properties_of
from gondrel.core.formats.iges.properties import metadata_in
from gondrel.core.formats.iges.records import Entity, IgesFile, open_iges
from gondrel.core.model.origins import Found, RecordView, owners_of

__all__ = ["IgesSource", "open_source"]

_MOST, _LONGEST = 300, 20_000


def open_source(path: str) -> IgesSource:
    """A file's entities. Raises InputError, MalformedFile, UnsupportedContent."""
    return IgesSource(open_iges(path))


class IgesSource:
    """Finds entities by the number of their directory entry and by type, and what points to them."""

    noun = "D"
    lists_edges = True

    def __init__(self, file: IgesFile) -> None:
        self.file = file
        self._lines = Path(file.path).read_bytes().decode("latin-1").splitlines()
        self._parameters = [line for line in self._lines if line[72:73] == "P"]

    @cached_property
    def owners(self) -> dict[int, list[int]]:
        """The entities that point to each."""
        return owners_of((each.number, self._pointers(each)) for each in self.file.entities.values())

    def _pointers(self, entity: Entity) -> Iterator[int]:
        """What an entity points to: by its directory entry, by its parameters, and its properties."""
        for number in (entity.structure, entity.view, entity.transform, -entity.level, -entity.colour):
            if number > 0 and number in self.file.entities:
                yield number
        inner = (entity.pointer(place) for place in links_of(entity) if place < len(entity.values))
        for number in (*inner, *properties_of(entity)):
            if abs(number) in self.file.entities:
                yield abs(number)

    def view(self, number: int) -> RecordView | None:
        """The entity of a directory entry, None where the file has none."""
        entity = self.file.at(number)
        if entity is None:
            return None
        return RecordView(
            number, self._type(entity), entity.line, "\n".join(self._text(entity))[:_LONGEST],
            tuple(self._found(n) for n in list(dict.fromkeys(self._pointers(entity)))[:_MOST]),
            tuple(self._found(n) for n in self.owners.get(number, [])[:_MOST]),
        )  # fmt: skip

    def _text(self, entity: Entity) -> Iterator[str]:
        """Its two directory lines, and the lines of its parameters."""
        yield from self._lines[entity.line - 1 : entity.line + 1]
        own = f"{entity.number}"
        for line in self._parameters:
            if line[64:72].strip() == own:
                yield line

    def _type(self, entity: Entity) -> str:
        return f"{entity.kind} {name_of(entity.kind)}"

    def _found(self, number: int) -> Found:
        return Found(number, self._type(self.file.entities[number]))

    def find(self, query: str) -> list[Found]:
        """Entities of a type, by its number or a part of its name, or with the words in a text; at most
        some hundred."""
        wanted = query.strip().casefold()
        fits = (
            e for e in self.file.entities.values()
            if wanted == str(e.kind)
            or (not wanted.isdigit() and (wanted in self._type(e).casefold() or _says(e, wanted)))
        )  # fmt: skip
        return [
            Found(entity.number, self._type(entity)) for entity, _ in zip(fits, range(_MOST), strict=False)
        ]

    def colour_of(self, number: int) -> int:
        """The colour definition an entity points to; itself where it names one by number, 0 without."""
        entity = self.file.at(number)
        if entity is None or not entity.colour:
            return 0
        return -entity.colour if entity.colour < 0 else number

    def property_of(self, number: int, key: str) -> int:
        """The generic data of a name that an entity points to, 0 where there is none."""
        entity = self.file.at(number)
        for each in properties_of(entity) if entity is not None else ():
            said = self.file.at(each)
            if said is not None and any(datum.key == key for datum in metadata_in(said)):
                return each
        return 0

    def edges_of(self, face: int) -> dict[int, tuple[float, ...]]:
        """The edge lists that hold the edges of a face of a solid: single edges are no entities. Trimmed
        surfaces have none.

        Source: IGES 5.3, types 510 (face), 508 (loop) and 504 (edge list).
        """
        at = [self.file.entities[face]] if face in self.file.entities else []
        for kind in (508, 504):
            at = [
                e for each in at for n in self._pointers(each) if (e := self.file.entities[n]).kind == kind
            ]
        return {each.number: () for each in at}

    def close(self) -> None:
        """Nothing is held open."""


def _says(entity: Entity, wanted: str) -> bool:
    return any(wanted in value.casefold() for value in entity.values if isinstance(value, str))

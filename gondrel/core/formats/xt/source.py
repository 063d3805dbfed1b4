"""The nodes of an XT file for people to read, with what points to what."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cached_property
from itertools import islice
from typing import Any

from gondrel.core.formats.xt import attributes as named
from gondrel.core.formats.xt.appearance import metadata_of
from gondrel.core.formats.xt.attributes import AttributeReader
from gondrel.core.formats.xt.body_read import chain_of
from gondrel.core.formats.xt.document import open_document
from gondrel.core.formats.xt.nodes import Document, Node
from gondrel.core.model.origins import Found, RecordView, owners_of

__all__ = ["XtSource", "open_source"]

_MOST, _LONGEST, _VALUES = 300, 20_000, 60
_TEXTS = {"CHAR_VALUES": "values", "UNICODE_VALUES": "values", "ATT_DEF_ID": "string"}


def open_source(path: str) -> XtSource:
    """A file's nodes. Raises InputError, MalformedFile, UnsupportedContent."""
    return XtSource(open_document(path))


class XtSource:
    """Finds nodes by index and by type, and what points to them."""

    noun = "node "
    lists_edges = False

    def __init__(self, document: Document) -> None:
        self.document = document

    @cached_property
    def owners(self) -> dict[int, list[int]]:
        """The nodes that point to each."""
        return owners_of((node.index, node.pointers()) for node in self.document.nodes.values())

    def view(self, number: int) -> RecordView | None:
        """The node of an index, None where the file has none; its text has no lines to tell."""
        node = self.document.at(number)
        if node is None:
            return None
        refers = [n for n in dict.fromkeys(node.pointers()) if n in self.document.nodes]
        return RecordView(
            number, node.kind, 0, "\n".join(self._text(node))[:_LONGEST],
            tuple(self._found(n) for n in refers[:_MOST]),
            tuple(self._found(n) for n in self.owners.get(number, [])[:_MOST]),
        )  # fmt: skip

    def _text(self, node: Node) -> Iterator[str]:
        yield f"{node.kind}  type {node.type.number}  index {node.index}"
        for field in node.type.fields:
            unit = "  [m]" if field.is_length else ""
            yield f"  {field.name} = {_shown(node[field.name])}{unit}"

    def _found(self, index: int) -> Found:
        return Found(index, self.document.nodes[index].kind)

    def find(self, query: str) -> list[Found]:
        """Nodes of a type, by its name or a part of it, attributes by that of their definition too, and
        nodes with the words in their text; at most some hundred."""
        wanted, reader = query.strip().upper(), AttributeReader(self.document)

        def says(node: Node) -> bool:
            if wanted.isdigit():  # that is a node's index
                return False
            if node.kind == "ATTRIBUTE":
                return wanted in reader.identifier(node).upper()
            field = _TEXTS.get(node.kind)
            return field is not None and wanted in str(node.get(field, "")).upper()

        fits = (n for n in self.document.nodes.values() if wanted in n.kind.upper() or says(n))
        return [Found(node.index, node.kind) for node in islice(fits, _MOST)]

    def colour_of(self, number: int) -> int:
        """The attribute node that gives a node its colour, 0 where it has none of its own."""
        node = self.document.at(number)
        if node is None or not node.get("attributes_groups", 0):
            return 0
        reader = AttributeReader(self.document)
        at = self.document.at(node["attributes_groups"])
        while at is not None and at.kind == "ATTRIBUTE":
            if reader.identifier(at) == named.COLOUR:
                return at.index
            at = self.document.at(at.get("next", 0))
        return 0

    def property_of(self, number: int, key: str) -> int:
        """The attribute node that gives a node one of its properties, 0 where none does."""
        node = self.document.at(number)
        if node is None:
            return 0
        for index, identifier, fields in AttributeReader(self.document).each_of(node):
            if any(datum.key == key for datum in metadata_of({identifier: [fields]})):
                return index
        return 0

    def edges_of(self, face: int) -> dict[int, tuple[float, ...]]:
        """The edge nodes of a face, each with the coordinates of its vertices."""
        node = self.document.at(face)
        if node is None or "loop" not in node:
            return {}
        edges: dict[int, tuple[float, ...]] = {}
        for loop in chain_of(self.document, node["loop"], "next", "LOOP"):
            fin, seen = self.document.at(loop["fin"]), set[int]()
            while fin is not None and fin.kind == "FIN" and fin.index not in seen:
                seen.add(fin.index)
                if fin["edge"]:
                    edges[fin["edge"]] = self._ends(fin)
                fin = self.document.at(fin["forward"])
        return edges

    def _ends(self, fin: Node) -> tuple[float, ...]:
        """Where a fin comes from and leads to; a ring without vertices says neither."""
        behind = self.document.at(fin["backward"])
        ends: list[float] = []
        for each in (behind, fin):
            vertex = self.document.at(each["vertex"]) if each is not None else None
            point = self.document.at(vertex["point"]) if vertex is not None else None
            ends += point["pvec"] if point is not None else ()
        return tuple(ends) if len(ends) == 6 else ()

    def close(self) -> None:
        """Nothing is held open."""


def _shown(value: Any) -> str:
    if isinstance(value, list) and len(value) > _VALUES:
        return f"{value[:_VALUES]} and {len(value) - _VALUES} more"
    return "?" if value is None else str(value)

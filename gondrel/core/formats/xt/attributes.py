"""Attributes: what is said of parts, instances and faces beside their shape.

Colour, transparency, name, density and layer go by the definitions that modellers share; what these
have no place for goes by definitions of our own, which other receivers may pass over. Identifiers of
shared definitions and the kinds of their values are from memory of the published reference; a reader
goes by the identifier alone.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any

from gondrel.core.errors import MalformedFile
from gondrel.core.formats.xt.body_read import chain_of
from gondrel.core.formats.xt.builder import NodeBuilder
from gondrel.core.formats.xt.nodes import Document, Node

__all__ = [
    "BODY", "BODY_MORE", "COLOUR", "DATUM", "DENSITY", "IDENTITY", "INSIDE", "LAYER", "LAYER_NAME",
    "MATERIAL", "MODEL_MORE", "MORE", "NAME", "TRANSPARENCY", "UNICODE_NAME", "AttributeReader",
    "AttributeWriter",
]  # fmt: skip

COLOUR = "SDL/TYSA_COLOUR"
TRANSPARENCY = "SDL/TYSA_TRANSLUCENCY"
NAME = "SDL/TYSA_NAME"
UNICODE_NAME = "SDL/TYSA_UNAME"
DENSITY = "SDL/TYSA_DENSITY"
LAYER = "SDL/TYSA_LAYER"
IDENTITY = "GONDREL/IDENTITY"
"""Number, name, revision and description of a product."""
MATERIAL = "GONDREL/MATERIAL"
"""Name and description of a material, and its density in kg/m3."""
DATUM = "GONDREL/DATUM"
"""Key, kind and value of one piece of metadata."""
BODY = "GONDREL/BODY"
"""Name of a body, and the places of its faces that have a colour of their own."""
INSIDE = "GONDREL/INSIDE"
"""Marks a body that belongs to the assembly it is placed in, as one of its own bodies."""
LAYER_NAME = "GONDREL/LAYER"
"""Name of a layer."""
MORE = "GONDREL/MORE"
"""What is said of a product, an instance or a face besides; see model.extras."""
BODY_MORE = "GONDREL/BODY_MORE"
"""What is said of a body besides, on a node that can be a product's too."""
MODEL_MORE = "GONDREL/MODEL_MORE"
"""What is said of the layers of the whole, on the first part."""

_INT, _REAL, _CHAR, _UNICODE = 1, 2, 3, 10
_FIELDS: dict[str, tuple[int, ...]] = {
    COLOUR: (_REAL,),
    TRANSPARENCY: (_REAL,),
    NAME: (_CHAR,),
    UNICODE_NAME: (_UNICODE,),
    DENSITY: (_REAL, _CHAR),
    LAYER: (_INT,),
    IDENTITY: (_UNICODE,) * 4,
    MATERIAL: (_UNICODE, _UNICODE, _REAL),
    DATUM: (_UNICODE,) * 3,
    BODY: (_UNICODE, _INT),
    INSIDE: (_INT,),
    LAYER_NAME: (_UNICODE,),
    MORE: (_UNICODE,),
    BODY_MORE: (_UNICODE,),
    MODEL_MORE: (_UNICODE,),
}
_TYPE_IDS = {COLOUR: 8001, DENSITY: 8004, TRANSPARENCY: 8015, NAME: 8017, LAYER: 8018, UNICODE_NAME: 8037}
_OWN_TYPE_ID = 9000
"""Type ids of definitions that users make begin here (from memory)."""

_VALUES = {
    _INT: ("INT_VALUES", "values"), _REAL: ("REAL_VALUES", "values"), _CHAR: ("CHAR_VALUES", "values"),
    _UNICODE: ("UNICODE_VALUES", "values"),
}  # fmt: skip
_BLOCK = 20


def _units(text: str) -> list[int]:
    data = text.encode("utf-16-be", "surrogatepass")
    return [data[i] << 8 | data[i + 1] for i in range(0, len(data), 2)]


@dataclass(slots=True)
class AttributeWriter:
    """Hangs attributes on nodes; the definitions stand once in the file."""

    make: NodeBuilder
    definitions: dict[str, int] = field(default_factory=dict)
    _of_part: dict[str, list[int]] = field(default_factory=dict)
    _of_owner: dict[int, list[int]] = field(default_factory=dict)

    def add(self, owner: int, identifier: str, *values: Any) -> None:
        """Hang an attribute on a node; each value is a text, a number or a list of numbers."""
        make = self.make
        fields = []
        for code, value in zip(_FIELDS[identifier], values, strict=False):
            kind, name = _VALUES[code]
            if code == _UNICODE:
                held: Any = _units(value)
            elif code == _CHAR:
                held = value
            else:
                held = list(value) if isinstance(value, list | tuple) else [value]
            fields.append(make.new(kind, **{name: held}) if held or code == _CHAR else 0)
        fields += [0] * (len(_FIELDS[identifier]) - len(fields))
        at = make.new("ATTRIBUTE", definition=self._definition(identifier), owner=owner, fields=fields)
        self._of_part.setdefault(identifier, []).append(at)
        self._of_owner.setdefault(owner, []).append(at)

    def _definition(self, identifier: str) -> int:
        if identifier not in self.definitions:
            make = self.make
            self.definitions[identifier] = make.new(
                "ATTRIB_DEF",
                identifier=make.new("ATT_DEF_ID", string=identifier),
                type_id=_TYPE_IDS.get(identifier, _OWN_TYPE_ID + len(self.definitions)),
                legal_owners=["T"] * 14,
                fields=list(_FIELDS[identifier]),
            )
        return self.definitions[identifier]

    def finish(self, part: int) -> None:
        """Chain the attributes hung since the last part and list them in this one."""
        make = self.make
        for owner, indices in self._of_owner.items():
            make.set(owner, attributes_groups=make.chain(indices))
        firsts = [
            make.chain(i, forth="next_of_type", back="previous_of_type") for i in self._of_part.values()
        ]
        if firsts:
            block = make.new("POINTER_LIS_BLOCK", n_entries=len(firsts), entries=firsts)
            listed = make.new(
                "LIST", owner=part, list_type=4, list_length=len(firsts),
                block_length=max(_BLOCK, len(firsts)), size_of_entry=1, list_block=block,
                finger_block=block, finger_index=1,
            )  # fmt: skip
            make.set(part, attribute_chains=listed)
        self._of_part.clear()
        self._of_owner.clear()


class AttributeReader:
    """What the attributes of a node say."""

    def __init__(self, document: Document) -> None:
        self.document = document

    def of(self, node: Node) -> dict[str, list[list[Any]]]:
        """By identifier: for each attribute its fields, a text or a list of values each.

        Raises:
            MalformedFile: when the chain of attributes does not end.
        """
        by_definition: dict[str, list[list[Any]]] = {}
        for _, identifier, fields in self.each_of(node):
            by_definition.setdefault(identifier, []).append(fields)
        return by_definition

    def each_of(self, node: Node) -> Iterator[tuple[int, str, list[Any]]]:
        """The attributes of a node in their order: index, identifier and fields of each. Raises as of."""
        for each in chain_of(self.document, node.get("attributes_groups", 0), "next"):
            if each.kind == "ATTRIBUTE":
                yield each.index, self.identifier(each), [self._field(p) for p in each["fields"]]

    def identifier(self, attribute: Node) -> str:
        """The identifier of an attribute's definition, empty when it has none."""
        definition = self.document.at(attribute["definition"])
        named = self.document.at(definition.get("identifier", 0)) if definition is not None else None
        return str(named.get("string", "")) if named is not None else ""

    def _field(self, index: int) -> Any:
        node = self.document.at(index)
        if node is None:
            return []
        if node.kind == "UNICODE_VALUES":
            data = b"".join((v & 0xFFFF).to_bytes(2, "big") for v in node["values"])
            return data.decode("utf-16-be", "replace")
        return node.get("values", [])


def text_in(fields: Sequence[Any], place: int) -> str:
    """A field as text, empty when it is not there."""
    value = fields[place] if place < len(fields) else ""
    return value if isinstance(value, str) else ""


def numbers_in(fields: Sequence[Any], place: int) -> list[float]:
    """A field as numbers. Raises MalformedFile when it holds something else."""
    value = fields[place] if place < len(fields) else []
    if isinstance(value, str):
        raise MalformedFile("an attribute holds text where numbers belong")
    return [v for v in value if v is not None]

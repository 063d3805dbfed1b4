"""The independent parser as referee: what it says of a file of ours, with our own table as catalogue.

Source: the package parasolid-kit of the Python package index, a test dependency only.
"""

from __future__ import annotations

from functools import cache
from typing import Any

import parasolid_kit as kit
from parasolid_kit.schema import model as rules

from gondrel.core.formats.xt.schema import base_schema

_NAMES = {"FIN": "HALFEDGE"}
_FIELDS = {
    ("LOOP", "fin"): "halfedge",
    ("EDGE", "fin"): "halfedge",
    ("VERTEX", "fin"): "halfedge",
    ("BLENDED_EDGE", "type"): "blend_type",
}
"""Names that the referee's mapper knows some nodes and fields by."""


@cache
def _provider() -> Any:
    letters = {kind.value: kind for kind in rules.FieldType}
    types = []
    for kind in base_schema().values():
        fields = tuple(
            rules.FieldDefinition(
                _FIELDS.get((kind.name, f.name), f.name), letters[f.letter], f.points_to, f.count, True
            )
            for f in kind.fields
        )
        name = _NAMES.get(kind.name, kind.name)
        source = next(iter(rules.SchemaSource))
        types.append(rules.TypeDefinition(kind.number, name, name, kind.is_variable, fields, source))
    return kit.InMemorySchemaProvider([kit.SchemaCatalog("13006", tuple(types))])


def judge(data: bytes, *, built_in: bool = False) -> Any:
    """The referee's reading of a file, with its own profile of schema 13006 or with our table."""
    given = {} if built_in else {"schema_provider": _provider()}
    binary = b"FORMAT=binary" in data[:4096]
    return kit.read_brep(data, source_format="x-b" if binary else "x-t", **given)


def parse(data: bytes) -> Any:
    """The referee's nodes of a file, by our table."""
    read = kit.parse_xb if b"FORMAT=binary" in data[:4096] else kit.parse_xt
    return read(data, schema_provider=_provider())

"""The entity types of IGES that are understood: names, and where their parameters point to others.

Source: IGES 5.3 (US PRO/IPO-100), clause 4, the parameter data tables of each entity; from memory.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from gondrel.core.formats.iges.records import Entity

__all__ = [
    "CURVES",
    "NAMES",
    "POINT",
    "SURFACES",
    "TRIMMED",
    "links_of",
    "name_of",
    "properties_of",
    "size_of",
]

NAMES = {
    0: "null", 100: "circular arc", 102: "composite curve", 104: "conic arc", 106: "copious data",
    108: "plane", 110: "line", 112: "parametric spline curve", 114: "parametric spline surface",
    116: "point", 118: "ruled surface", 120: "surface of revolution", 122: "tabulated cylinder",
    123: "direction", 124: "transformation matrix", 125: "flash", 126: "rational B-spline curve",
    128: "rational B-spline surface", 130: "offset curve", 132: "connect point", 134: "node",
    136: "finite element", 138: "nodal displacement", 140: "offset surface", 141: "boundary",
    142: "curve on a parametric surface", 143: "bounded surface", 144: "trimmed surface",
    146: "nodal results", 148: "element results", 150: "block", 152: "right angular wedge",
    154: "right circular cylinder", 156: "right circular cone frustum", 158: "sphere", 160: "torus",
    162: "solid of revolution", 164: "solid of linear extrusion", 168: "ellipsoid", 180: "Boolean tree",
    182: "selected component", 184: "solid assembly", 186: "manifold solid B-rep", 190: "plane surface",
    192: "cylindrical surface", 194: "conical surface", 196: "spherical surface",
    198: "toroidal surface", 202: "angular dimension", 204: "curve dimension",
    206: "diameter dimension", 208: "flag note", 210: "general label", 212: "general note",
    213: "new general note", 214: "leader", 216: "linear dimension", 218: "ordinate dimension",
    220: "point dimension", 222: "radius dimension", 228: "general symbol", 230: "sectioned area",
    302: "associativity definition", 304: "line font definition", 306: "macro definition",
    308: "subfigure definition", 310: "text font definition", 312: "text display template",
    314: "colour definition", 316: "units data", 320: "network subfigure definition",
    322: "attribute table definition", 402: "associativity instance", 404: "drawing",
    406: "property", 408: "singular subfigure instance", 410: "view",
    412: "rectangular array instance", 414: "circular array instance", 416: "external reference",
    418: "nodal load", 420: "network subfigure instance", 422: "attribute table instance",
    430: "solid instance", 502: "vertex list", 504: "edge list", 508: "loop", 510: "face",
    514: "shell",
}  # fmt: skip

TRIMMED = frozenset((143, 144))
SURFACES = frozenset((108, 114, 118, 120, 122, 128, 140, 190, 192, 194, 196, 198))
CURVES = frozenset((100, 102, 104, 106, 110, 112, 126, 130))
POINT = 116
_GROUPS = frozenset((1, 7, 14, 15))
"""ElementarySurfaces of the associativity instance (402) that are plain groups, ordered or not."""


def name_of(kind: int) -> str:
    """An entity type for people."""
    return NAMES.get(kind, "entity of an unknown type")


Links = Callable[["Entity"], Iterator[int]]

_FIXED: dict[int, tuple[int, ...]] = {
    108: (4,), 116: (3,), 118: (0, 1), 120: (0, 1), 122: (0,), 130: (0, 2), 140: (4,),
    142: (1, 2, 3), 190: (0, 1, 2), 192: (0, 1, 3), 194: (0, 1, 4), 196: (0, 2, 3), 198: (0, 1, 4),
    408: (0,), 420: (0,), 412: (0,), 414: (0,), 430: (0,),
}  # fmt: skip
_SIZES = {
    100: 7, 104: 11, 108: 9, 110: 6, 116: 4, 118: 4, 120: 4, 122: 4, 123: 3, 124: 12, 130: 14, 140: 5,
    142: 5, 190: 3, 192: 4, 194: 5, 196: 4, 198: 5, 314: 4, 408: 5, 430: 1,
}  # fmt: skip


def _listed(count_at: int, first: int, step: int = 1) -> Links:
    def links(entity: Entity) -> Iterator[int]:
        yield from range(first, first + step * entity.integer(count_at), step)

    return links


def _after(head: tuple[int, ...], listed: Links) -> Links:
    def links(entity: Entity) -> Iterator[int]:
        yield from head
        yield from listed(entity)

    return links


def _edge_list(entity: Entity) -> Iterator[int]:
    for first in range(1, 1 + 5 * entity.integer(0), 5):
        yield from (first, first + 1, first + 3)


def _loop(entity: Entity) -> Iterator[int]:
    at = 1
    for _ in range(entity.integer(0)):
        yield at + 1
        curves = entity.integer(at + 4)
        yield from range(at + 6, at + 6 + 2 * curves, 2)
        at += 5 + 2 * curves


def _boundary(entity: Entity) -> Iterator[int]:
    yield 2
    at = 4
    for _ in range(entity.integer(3)):
        yield at
        curves = entity.integer(at + 2)
        yield from range(at + 3, at + 3 + curves)
        at += 3 + curves


def _group(entity: Entity) -> Iterator[int]:
    if entity.form in _GROUPS:
        yield from range(1, 1 + entity.integer(0))


_LISTED: dict[int, Links] = {
    102: _listed(0, 1),
    141: _boundary,
    143: _after((1,), _listed(2, 3)),
    144: _after((0, 3), _listed(2, 4)),
    184: _listed(0, 1),
    186: _after((0,), _listed(2, 3, 2)),
    308: _listed(2, 3),
    402: _group,
    504: _edge_list,
    508: _loop,
    510: _after((0,), _listed(1, 3)),
    514: _listed(0, 1, 2),
}


def links_of(entity: Entity) -> Iterator[int]:
    """Places of the parameters that hold pointers to other entities.

    Raises:
        MalformedFile: when a count among the parameters is no count.
    """
    count = len(entity.values)
    own = size_of(entity)
    for at in _FIXED.get(entity.kind, ()):
        if at < min(count, own):
            yield at
    if entity.kind in _LISTED:
        for at in _LISTED[entity.kind](entity):
            if at >= count:
                return
            yield at
    yield from _tail(entity, own)


def _tail(entity: Entity, own: int) -> Iterator[int]:
    """The pointers to associativities and properties behind an entity's own parameters."""
    at = own
    for _ in range(2):
        if at >= len(entity.values):
            return
        many = entity.integer(at)
        yield from range(at + 1, min(at + 1 + many, len(entity.values)))
        at += 1 + many


def _spline(entity: Entity) -> int:
    top, degree = entity.integer(0), entity.integer(1)
    return 6 + (2 + top + degree) + 4 * (1 + top) + 5


def _spline_surface(entity: Entity) -> int:
    top_u, top_v, degree_u, degree_v = (entity.integer(i) for i in range(4))
    return 9 + (2 + top_u + degree_u) + (2 + top_v + degree_v) + 4 * (1 + top_u) * (1 + top_v) + 4


def _copious(entity: Entity) -> int:
    points = entity.integer(1)
    return {1: 3 + 2 * points, 2: 2 + 3 * points}.get(entity.integer(0), 2 + 6 * points)


def _plain(base: int, count_at: int, step: int = 1) -> Callable[[Entity], int]:
    return lambda entity: base + step * entity.integer(count_at)


_MEASURED: dict[int, Callable[[Entity], int]] = {
    102: _plain(1, 0), 106: _copious, 112: lambda e: 4 + e.integer(3) + 1 + 12 * e.integer(3) + 12,
    126: _spline, 128: _spline_surface, 143: _plain(3, 2), 144: _plain(4, 2), 184: _plain(1, 0, 2),
    186: _plain(3, 2, 2), 308: _plain(3, 2), 402: _plain(1, 0), 406: _plain(1, 0),
    502: _plain(1, 0, 3), 504: _plain(1, 0, 5), 510: _plain(3, 1), 514: _plain(1, 0, 2),
}  # fmt: skip


def size_of(entity: Entity) -> int:
    """How many parameters are the entity's own; what follows points to associativities and properties.

    Entities of types not listed are taken to have nothing behind.
    """
    if entity.kind in _SIZES:
        return _SIZES[entity.kind]
    measure = _MEASURED.get(entity.kind)
    return measure(entity) if measure is not None else len(entity.values)


def properties_of(entity: Entity) -> Sequence[int]:
    """Numbers of the properties of an entity. Raises MalformedFile."""
    at = size_of(entity)
    if at >= len(entity.values):
        return ()
    at += 1 + entity.integer(at)
    if at >= len(entity.values):
        return ()
    return [entity.pointer(i) for i in range(at + 1, min(at + 1 + entity.integer(at), len(entity.values)))]

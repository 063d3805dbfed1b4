"""Whether what the bodies of a STEP file rest on holds: numbers, references, loops and shells.

The kernel takes what it is given: a reference to a wrong record becomes another shape and nobody is told.
So every record reached from a body is looked at: defined once, referring to what its kind refers to, loops
that close, shells whose edges bound two faces, coordinates that are numbers.
Source: ISO 10303-42 (geometry and topology): which entity an attribute may be, and how many.
"""

from __future__ import annotations

import math
import re
from collections import Counter
from collections.abc import Container, Iterable, Iterator
from dataclasses import dataclass, field

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from gondrel.core.errors import MalformedFile
from gondrel.core.formats.step.card import SHEETS, SOLIDS
from gondrel.core.formats.step.graph import formation_of, relation_of
from gondrel.core.formats.step.links import Flags, Links
from gondrel.core.formats.step.outline import Topology
from gondrel.core.formats.step.placed import Geometry
from gondrel.core.formats.step.records import Records
from gondrel.core.formats.step.tokens import Enumeration, Parameter, Typed
from gondrel.core.model.provenance import Note

__all__ = ["Soundness", "soundness_of"]

_CURVES = (
    "LINE", "CIRCLE", "ELLIPSE", "HYPERBOLA", "PARABOLA", "POLYLINE", "TRIMMED_CURVE", "COMPOSITE_CURVE",
    "B_SPLINE_CURVE", "B_SPLINE_CURVE_WITH_KNOTS", "BEZIER_CURVE", "QUASI_UNIFORM_CURVE", "UNIFORM_CURVE",
    "RATIONAL_B_SPLINE_CURVE", "OFFSET_CURVE_3D", "SURFACE_CURVE", "SEAM_CURVE", "INTERSECTION_CURVE",
    "BOUNDED_SURFACE_CURVE", "PCURVE", "BOUNDED_PCURVE", "CURVE_REPLICA", "BOUNDED_CURVE", "CURVE",
    "CONIC", "CLOTHOID", "COMPOSITE_CURVE_ON_SURFACE", "OUTER_BOUNDARY_CURVE", "BOUNDARY_CURVE",
)  # fmt: skip
_SURFACES = (
    "PLANE", "CYLINDRICAL_SURFACE", "CONICAL_SURFACE", "SPHERICAL_SURFACE", "TOROIDAL_SURFACE",
    "DEGENERATE_TOROIDAL_SURFACE", "SURFACE_OF_LINEAR_EXTRUSION", "SURFACE_OF_REVOLUTION",
    "B_SPLINE_SURFACE", "B_SPLINE_SURFACE_WITH_KNOTS", "BEZIER_SURFACE", "QUASI_UNIFORM_SURFACE",
    "UNIFORM_SURFACE", "RATIONAL_B_SPLINE_SURFACE", "OFFSET_SURFACE", "RECTANGULAR_TRIMMED_SURFACE",
    "CURVE_BOUNDED_SURFACE", "RECTANGULAR_COMPOSITE_SURFACE", "SURFACE_REPLICA", "ORIENTED_SURFACE",
    "BOUNDED_SURFACE", "ELEMENTARY_SURFACE", "SWEPT_SURFACE", "SURFACE", "DUPIN_CYCLIDE_SURFACE",
)  # fmt: skip
_POINTS = ("CARTESIAN_POINT", "POINT_ON_CURVE", "POINT_ON_SURFACE", "POINT_REPLICA", "DEGENERATE_PCURVE")
_PLACES = ("AXIS2_PLACEMENT_3D", "AXIS2_PLACEMENT_2D")
_EDGES = ("EDGE_CURVE", "SUBEDGE", "EDGE")
_LOOPS = ("EDGE_LOOP", "VERTEX_LOOP", "POLY_LOOP", "LOOP")
_BOUNDS = ("FACE_BOUND", "FACE_OUTER_BOUND")
_FACES = ("ADVANCED_FACE", "FACE_SURFACE", "ORIENTED_FACE", "FACE", "SUBFACE")
_SHELLS = ("CLOSED_SHELL", "OPEN_SHELL", "ORIENTED_CLOSED_SHELL", "ORIENTED_OPEN_SHELL",
           "CONNECTED_FACE_SET", "SURFACED_OPEN_SHELL")  # fmt: skip

_PLACING = ("ITEM_DEFINED_TRANSFORMATION", "CONTEXT_DEPENDENT_SHAPE_REPRESENTATION", "MAPPED_ITEM",
            "NEXT_ASSEMBLY_USAGE_OCCURRENCE")  # fmt: skip

_CLASSES: dict[str, tuple[str, ...]] = {
    "shape": (),  # representations of any kind
    "point": _POINTS, "direction": ("DIRECTION",), "vector": ("VECTOR",), "placement": _PLACES,
    "axis": ("AXIS1_PLACEMENT",), "curve": _CURVES, "surface": _SURFACES,
    "vertex": ("VERTEX_POINT", "VERTEX"), "edge": _EDGES, "oriented edge": ("ORIENTED_EDGE",),
    "loop": _LOOPS, "bound": _BOUNDS, "face": _FACES, "shell": _SHELLS,
    "definition": ("PRODUCT_DEFINITION", "PRODUCT_DEFINITION_WITH_ASSOCIATED_DOCUMENTS"),
    "definition of a shape": ("PRODUCT_DEFINITION_SHAPE",),
    "transformation": ("ITEM_DEFINED_TRANSFORMATION", "CARTESIAN_TRANSFORMATION_OPERATOR_3D"),
    "relation": ("REPRESENTATION_RELATIONSHIP", "SHAPE_REPRESENTATION_RELATIONSHIP",
                 "REPRESENTATION_RELATIONSHIP_WITH_TRANSFORMATION"),
    "other": ("MEASURE_WITH_UNIT", "MEASURE_REPRESENTATION_ITEM"),
}  # fmt: skip

_MANY = 1 << 40
Needs = dict[str, tuple[int, int]]

_ELEMENTARY: Needs = {"placement": (1, 1)}
_RULES: dict[tuple[str, ...], Needs] = {
    ("MANIFOLD_SOLID_BREP", "FACETED_BREP"): {"shell": (1, 1)},
    ("BREP_WITH_VOIDS",): {"shell": (1, _MANY)},
    ("SHELL_BASED_SURFACE_MODEL",): {"shell": (1, _MANY)},
    ("FACE_BASED_SURFACE_MODEL",): {"shell": (1, _MANY)},
    ("CLOSED_SHELL", "OPEN_SHELL"): {"face": (1, _MANY)},
    ("ORIENTED_CLOSED_SHELL", "ORIENTED_OPEN_SHELL"): {"shell": (1, 1)},
    ("ADVANCED_FACE", "FACE_SURFACE"): {"bound": (1, _MANY), "surface": (1, 1)},
    _BOUNDS: {"loop": (1, 1)},
    ("EDGE_LOOP",): {"oriented edge": (1, _MANY)},
    ("VERTEX_LOOP",): {"vertex": (1, 1)},
    ("POLY_LOOP",): {"point": (3, _MANY)},
    ("ORIENTED_EDGE",): {"edge": (1, 1), "vertex": (0, 2)},
    ("EDGE_CURVE",): {"vertex": (2, 2), "curve": (1, 1)},
    ("VERTEX_POINT",): {"point": (1, 1)},
    ("PLANE", "CYLINDRICAL_SURFACE", "CONICAL_SURFACE", "SPHERICAL_SURFACE", "TOROIDAL_SURFACE",
     "DEGENERATE_TOROIDAL_SURFACE", "CIRCLE", "ELLIPSE", "HYPERBOLA", "PARABOLA"): _ELEMENTARY,
    ("SURFACE_OF_LINEAR_EXTRUSION",): {"curve": (1, 1), "vector": (1, 1)},
    ("SURFACE_OF_REVOLUTION",): {"curve": (1, 1), "axis": (1, 1)},
    ("LINE",): {"point": (1, 1), "vector": (1, 1)},
    ("VECTOR",): {"direction": (1, 1)},
    ("AXIS2_PLACEMENT_3D",): {"point": (1, 1), "direction": (0, 2)},
    ("AXIS2_PLACEMENT_2D",): {"point": (1, 1), "direction": (0, 1)},
    ("AXIS1_PLACEMENT",): {"point": (1, 1), "direction": (0, 1)},
    ("B_SPLINE_CURVE_WITH_KNOTS", "POLYLINE"): {"point": (2, _MANY)},
    ("B_SPLINE_SURFACE_WITH_KNOTS",): {"point": (4, _MANY)},
    ("OFFSET_SURFACE", "RECTANGULAR_TRIMMED_SURFACE"): {"surface": (1, 1)},
    ("ITEM_DEFINED_TRANSFORMATION",): {"placement": (2, 2)},
    ("REPRESENTATION_RELATIONSHIP_WITH_TRANSFORMATION",): {"shape": (2, 2), "transformation": (1, 1)},
    ("CONTEXT_DEPENDENT_SHAPE_REPRESENTATION",): {"relation": (1, 1), "definition of a shape": (1, 1)},
    ("NEXT_ASSEMBLY_USAGE_OCCURRENCE",): {"definition": (2, 2), "other": (0, 1)},
}  # fmt: skip
"""What the records of some kinds refer to, by class, with the least and the most of each; nothing else."""

_WORDS = {
    "CLOSED_SHELL": "a closed shell", "ADVANCED_FACE": "a face", "FACE_SURFACE": "a face",
    "EDGE_CURVE": "an edge", "ORIENTED_EDGE": "an oriented edge", "EDGE_LOOP": "a loop",
}  # fmt: skip
_JUMP = 1e-2
"""Ends of edges that follow each other may lie so far apart, mm, where they are not one vertex."""

_MOST_DANGLING = 100
_FEW = 5_000
_REFERENCE = re.compile(rb"#(\d+)")
_STRANGE = re.compile(rb"##|#[^0-9]|[0-9.]E\+?[3-9][0-9]{2}")
_FLAT = re.compile(rb"CARTESIAN_POINT\s*\(\s*'[^']*'\s*,\s*\(\s*[^,()]+,\s*[^,()]+\)\s*\)")
_PAIRS = ("PROPERTY_DEFINITION_REPRESENTATION", "SHAPE_DEFINITION_REPRESENTATION",
          "CONTEXT_DEPENDENT_SHAPE_REPRESENTATION")  # fmt: skip
"""Records that say nothing, and that the kernel dies of, where one of their two references is none."""

_IN_SPACE = {"AXIS2_PLACEMENT_3D": 1, "AXIS1_PLACEMENT": 1, "VERTEX_POINT": 1}
"""Records that need a point with three coordinates, and the attribute that it is."""

_ATTRIBUTES = {
    "CARTESIAN_POINT": 2, "DIRECTION": 2, "VECTOR": 3, "LINE": 3, "CIRCLE": 3, "ELLIPSE": 4,
    "HYPERBOLA": 4, "PARABOLA": 3, "POLYLINE": 2, "B_SPLINE_CURVE_WITH_KNOTS": 9, "TRIMMED_CURVE": 6,
    "AXIS1_PLACEMENT": 3, "AXIS2_PLACEMENT_2D": 3, "AXIS2_PLACEMENT_3D": 4, "PLANE": 2,
    "CYLINDRICAL_SURFACE": 3, "CONICAL_SURFACE": 4, "SPHERICAL_SURFACE": 3, "TOROIDAL_SURFACE": 4,
    "DEGENERATE_TOROIDAL_SURFACE": 5, "SURFACE_OF_LINEAR_EXTRUSION": 3, "SURFACE_OF_REVOLUTION": 3,
    "B_SPLINE_SURFACE_WITH_KNOTS": 13, "OFFSET_SURFACE": 4, "PCURVE": 3, "SURFACE_CURVE": 4,
    "SEAM_CURVE": 4, "INTERSECTION_CURVE": 4, "VERTEX_POINT": 2, "EDGE_CURVE": 5, "ORIENTED_EDGE": 5,
    "EDGE_LOOP": 2, "VERTEX_LOOP": 2, "FACE_BOUND": 3, "FACE_OUTER_BOUND": 3, "ADVANCED_FACE": 4,
    "FACE_SURFACE": 4, "CLOSED_SHELL": 2, "OPEN_SHELL": 2, "ORIENTED_CLOSED_SHELL": 4,
    "MANIFOLD_SOLID_BREP": 2, "BREP_WITH_VOIDS": 3, "SHELL_BASED_SURFACE_MODEL": 2,
    "ITEM_DEFINED_TRANSFORMATION": 4, "MAPPED_ITEM": 3, "REPRESENTATION_MAP": 2,
}  # fmt: skip
"""How many attributes the records of a kind have, supertypes' included."""

_STYLES = {
    "SURFACE_STYLE_USAGE": "SIDE_STYLE", "PROPERTY_DEFINITION_REPRESENTATION": "REPRESENTATION",
}  # fmt: skip
"""Records whose second attribute must be of a kind, by a part of its keyword; complex ones are let pass."""

_MISSING = "what depends on it is missing"
_REACH = 1e9
"""Coordinates beyond this, mm, are no part of anything that is made."""


@dataclass(frozen=True, slots=True)
class Soundness:
    """What does not hold of a file.

    Args:
        notes: one for each kind, at its first record; senseless: places in the file, from 0, of the records
            that the kernel must not be given; doubles: those whose number another has before them.
        respelt: places of those whose keywords have small letters, which only some readers take.
        circle: names of assemblies that contain each other in a ring, empty where there is none.
    """

    notes: tuple[Note, ...] = ()
    senseless: tuple[int, ...] = ()
    circle: tuple[str, ...] = ()
    doubles: tuple[int, ...] = ()
    respelt: tuple[int, ...] = ()


def soundness_of(records: Records, links: Links, topology: Topology, geometry: Geometry) -> Soundness:
    """Whether what the bodies of a file rest on holds.

    Args:
        topology, geometry: of the same file.
    """
    names, which = records.keywords()
    is_seed = np.array([_is_seed(name) for name in names] or [False])[which]
    reached = links.reached(is_seed)
    looking = _Looking(records, links, topology, geometry, names, which, reached)
    groups = (
        looking.twice(), looking.dangling(), looking.references(), looking.unreadable(), looking.rings(),
        looking.numbers(),
        looking.loops(), looking.shells(),
    )  # fmt: skip
    notes = [note for group in groups for note in group]
    respelt = records.small_lettered()
    if respelt:
        text = "its keyword has small letters and was taken as if in capitals" + _more(len(respelt))
        notes.append(Note("keyword-case", text, f"#{records.number_at(respelt[0])}"))
    return Soundness(
        tuple(notes), tuple(sorted(looking.senseless)), tuple(_circle(records)),
        tuple(sorted(looking.doubles)), tuple(respelt),
    )  # fmt: skip


def _is_seed(name: str) -> bool:
    """Whether records of a keyword are where looking begins: bodies, shapes, and what places them."""
    parts = set(name.split("+"))
    is_shape = any(part.endswith("SHAPE_REPRESENTATION") for part in parts)
    return is_shape or not parts.isdisjoint((*SOLIDS, *SHEETS, *_PLACING))


def _circle(records: Records) -> list[str]:
    """Names of the products of a ring of usages, each containing the next; empty where there is none."""
    below: dict[int, list[int]] = {}
    for use in records.of("NEXT_ASSEMBLY_USAGE_OCCURRENCE"):
        _, _, _, parent, child, _ = relation_of(use)
        below.setdefault(parent, []).append(child)
    state: dict[int, int] = {}
    for start in below:
        path: list[int] = []
        stack = [(start, iter(below.get(start, ())))] if start not in state else []
        if stack:
            state[start] = 1
            path.append(start)
        while stack:
            _, children = stack[-1]
            inner = next(children, None)
            if inner is None:
                state[path.pop()] = 2
                stack.pop()
            elif state.get(inner) == 1:
                ring = [*path[path.index(inner) :], inner]
                return [_label(records, number) for number in ring]
            elif inner in below and inner not in state:
                state[inner] = 1
                path.append(inner)
                stack.append((inner, iter(below[inner])))
    return []


def _label(records: Records, number: int) -> str:
    definition = records.get(number)
    formation = formation_of(records, definition) if definition is not None else None
    product = records.get(formation.ref(2)) if formation is not None else None
    return (product.text(1) or product.text(0) or f"#{number}") if product is not None else f"#{number}"


@dataclass(slots=True)
class _Looking:
    records: Records
    links: Links
    topology: Topology
    geometry: Geometry
    names: list[str]
    which: np.ndarray  # type: ignore[type-arg]
    reached: Flags
    senseless: set[int] = field(default_factory=set)
    doubles: set[int] = field(default_factory=set)

    def _number(self, row: int) -> int:
        return self.records.at(int(row) + 1).number

    def twice(self) -> Iterator[Note]:
        """Numbers that are defined more than once."""
        numbers, _, _ = self.records.columns()
        values, counts = np.unique(numbers, return_counts=True)
        double = values[counts > 1]
        if len(double):
            order = np.argsort(numbers, kind="stable")
            again = np.flatnonzero(np.diff(numbers[order]) == 0) + 1
            self.doubles.update(order[again].tolist())
            for row in np.flatnonzero(np.isin(numbers, double)).tolist():
                try:
                    self.records.at(row + 1)
                except MalformedFile:
                    self.senseless.add(row)
            text = "is defined more than once; it is not known which is meant" + _more(len(double))
            yield Note("record-twice", text, f"#{double[0]}")

    def dangling(self) -> Iterator[Note]:
        """Records that refer to some that the file does not hold."""
        rows = self.links.owners[self.links.targets < 0]
        self.senseless.update(rows.tolist())
        for row in dict.fromkeys(rows[:_MOST_DANGLING].tolist()):
            number = self.records.number_at(row)
            for match in _REFERENCE.finditer(self.records.raw_at(row)):
                if not self.records.ordinal(int(match[1])):
                    text = f"refers to #{int(match[1])}, which the file does not hold; {_MISSING}"
                    yield Note("dangling-reference", text, f"#{number}")

    def unreadable(self) -> Iterator[Note]:
        """Records of faces, loops, edges and points whose attributes are not what their kind has."""
        topology = self.topology
        read: dict[str, Container[int]] = {
            "ADVANCED_FACE": {face[0] for face in topology.faces}, "FACE_BOUND": topology.bounds,
            "FACE_OUTER_BOUND": topology.bounds, "EDGE_LOOP": topology.loops,
            "ORIENTED_EDGE": topology.coedges, "EDGE_CURVE": topology.edges,
            "VERTEX_POINT": topology.vertices, "CARTESIAN_POINT": self.geometry.points,
        }  # fmt: skip
        for keyword, known in read.items():
            code = self.names.index(keyword) if keyword in self.names else -1
            rows = np.flatnonzero((self.which == code) & self.reached).tolist()
            lost = [row for row in rows if self.records.number_at(row) not in known]
            if keyword == "CARTESIAN_POINT":  # those of curves in parameters are flat
                lost = [row for row in lost if not _FLAT.match(self.records.raw_at(row))]
            fresh = [row for row in lost if row not in self.senseless]
            self.senseless.update(fresh)
            if fresh:
                text = f"{_WORDS.get(keyword, keyword)} has attributes that make no sense" + _more(
                    len(fresh)
                )
                yield Note("record-senseless", text, f"#{self.records.number_at(fresh[0])}")
        yield from self._misused()
        yield from self._units()
        yield from self._unparsed()
        for keyword in _PAIRS:
            code = self.names.index(keyword) if keyword in self.names else -1
            pairs = np.flatnonzero(self.which == code)
            counts = self.links.starts[pairs + 1] - self.links.starts[pairs]
            self.senseless.update(pairs[counts < 2].tolist())

    def _misused(self) -> Iterator[Note]:
        """Flat points where a place in space is wanted, and styles that lead to none: the kernel dies of
        both."""
        flat = set()
        for keyword, at in _IN_SPACE.items():
            for record in self.records.of(keyword):
                point = self.records.ordinal(record.ref(at))
                if point and record.ref(at) not in self.geometry.points and point - 1 not in self.senseless:
                    flat.add(point - 1)
        if flat:
            self.senseless.update(flat)
            where = f"#{self.records.number_at(min(flat))}"
            yield Note("record-senseless", "a point in space has other than three coordinates", where)
        for keyword, wanted in _STYLES.items():
            for record in self.records.of(keyword):
                found = self.records.get(record.ref(1))
                if found is None or (found.keyword and wanted not in found.keyword):
                    self.senseless.add(self.records.ordinal(record.number) - 1)

    def _units(self) -> Iterator[Note]:
        """Units of the international system whose prefix or name is no word, so that sizes are in doubt."""
        lost = []
        for record in self.records.of("SI_UNIT"):
            said = record.parts["SI_UNIT"][-2:]  # alone it says its dimensions first
            if len(said) < 2 or not all(value is None or isinstance(value, Enumeration) for value in said):
                lost.append(record.number)
        if lost:
            text = "a unit has a prefix or a name that makes no sense; sizes may be wrong" + _more(
                len(lost)
            )
            yield Note("unit-senseless", text, f"#{lost[0]}")

    def _unparsed(self) -> Iterator[Note]:
        """Records whose text makes no sense: all of a small file's are parsed, of a large one's those that
        a glance shows to be strange."""
        if len(self.which) <= _FEW:
            rows: Iterable[int] = range(len(self.which))
        else:
            _, begins, text = self.records.columns()
            at = [match.start() for match in _STRANGE.finditer(text)]
            rows = sorted(set((np.searchsorted(begins, at, "right") - 1).tolist()))
        lost = [row for row in rows if row >= 0 and not self._is_sound(row) and row not in self.senseless]
        if lost:
            self.senseless.update(lost)
            where = f"#{self.records.number_at(lost[0])}"
            yield Note("record-senseless", "its text makes no sense" + _more(len(lost)), where)

    def _is_sound(self, row: int) -> bool:
        """Whether a record can be parsed and its numbers are finite."""
        try:
            record = self.records.at(row + 1)
        except MalformedFile:
            return False
        wanted = _ATTRIBUTES.get(record.keyword)
        if wanted is not None and len(record.parameters) != wanted:
            return False
        return all(_is_finite(value) for part in record.parts.values() for value in part)

    def rings(self) -> Iterator[Note]:
        """Records that refer to each other in a ring, which geometry and topology never do."""
        owners, targets = self.links.owners, self.links.targets
        kept = (targets >= 0) & self.reached[owners]
        count = len(self.reached)
        graph = coo_array(
            (np.ones(int(kept.sum()), np.int8), (owners[kept], targets[kept])), shape=(count, count)
        ).tocsr()
        _, part = connected_components(graph, directed=True, connection="strong")
        sizes = np.bincount(part)
        rows = np.flatnonzero(sizes[part] > 1)
        own = owners[kept & (owners == targets)]
        ring = sorted({*rows.tolist(), *own.tolist()})
        if ring:
            self.senseless.update(ring)
            text = "refers to itself by way of others" + _more(len(ring))
            yield Note("reference-circular", text, f"#{self._number(ring[0])}")

    def references(self) -> Iterator[Note]:
        """Records that refer to what their kind does not refer to, or to too few or too many."""
        classes = {name: code for code, name in enumerate(_CLASSES)}
        of_name = np.array([self._class(name) for name in self.names] or [-1])
        targets = self.links.targets
        class_of = np.where(targets >= 0, of_name[self.which[targets]], -1)
        owners = self.links.owners
        wrong: dict[str, list[int]] = {}
        for keywords, needs in _RULES.items():
            codes = [
                i for i, name in enumerate(self.names) if not set(keywords).isdisjoint(name.split("+"))
            ]
            rows = np.isin(self.which, codes) & self.reached if codes else None
            if rows is None or not rows.any():
                continue
            of_rows = rows[owners]
            mine, kinds = owners[of_rows], class_of[of_rows]
            bad = np.zeros(len(rows), bool)
            allowed = [classes[name] for name in needs]
            bad[mine[~np.isin(kinds, allowed)]] = True
            for name, (least, most) in needs.items():
                counts = np.bincount(mine[kinds == classes[name]], minlength=len(rows))
                bad |= rows & ((counts < least) | (counts > most))
            for row in np.flatnonzero(bad).tolist():
                wrong.setdefault(self.names[int(self.which[row])], []).append(row)
        for keyword, found in wrong.items():
            self.senseless.update(found)
            text = f"{_WORDS.get(keyword, keyword)} does not refer to what it must" + _more(len(found))
            yield Note("reference-wrong", text, f"#{self._number(found[0])}")

    @staticmethod
    def _class(name: str) -> int:
        parts = set(name.split("+"))
        if any(part.endswith("REPRESENTATION") for part in parts):
            return list(_CLASSES).index("shape")
        found = (code for code, words in enumerate(_CLASSES.values()) if not parts.isdisjoint(words))
        return next(found, -1)

    def numbers(self) -> Iterator[Note]:
        """Points of bodies whose coordinates are no numbers or out of all reach."""
        far = [
            number
            for number, point in self.geometry.points.items()
            if not all(-_REACH <= value <= _REACH for value in point)
        ]
        ordinals = [(n, self.records.ordinal(n)) for n in far]
        found = [n for n, ordinal in ordinals if ordinal and self.reached[ordinal - 1]]
        if found:
            self.senseless.update(self.records.ordinal(n) - 1 for n in found)
            yield Note("coordinate-senseless", "has a coordinate that makes no sense" + _more(len(found)),
                       f"#{found[0]}")  # fmt: skip

    def loops(self) -> Iterator[Note]:
        """Loops in which an edge does not begin where the one before it ends."""
        torn = []
        for number, coedges in self.topology.loops.items():
            steps = [self._ends(coedge) for coedge in coedges]
            if None in steps or not steps:
                continue  # told of as a wrong reference
            ends = [step for step in steps if step is not None]
            if any(
                not self._meet(one[1], other[0])
                for one, other in zip(ends, (*ends[1:], ends[0]), strict=True)
            ):
                torn.append(number)
        kept = [n for n in torn if (o := self.records.ordinal(n)) and self.reached[o - 1]]
        if kept:
            text = "a loop has edges that do not follow each other" + _more(len(kept))
            yield Note("loop-torn", text, f"#{kept[0]}")

    def _ends(self, coedge: int) -> tuple[int, int] | None:
        edge, ahead = self.topology.coedges.get(coedge, (0, True))
        if edge not in self.topology.edges:
            return None
        start, end = self.topology.edges[edge][:2]
        return (start, end) if ahead else (end, start)

    def _meet(self, one: int, other: int) -> bool:
        if one == other:
            return True
        points = [self.geometry.points.get(self.topology.vertices.get(v, 0)) for v in (one, other)]
        if points[0] is None or points[1] is None:
            return False
        return bool(np.abs(np.subtract(points[0], points[1])).max() <= _JUMP)

    def shells(self) -> Iterator[Note]:
        """Closed shells that an edge bounds on one side only, or with more faces than two."""
        faces = {number: bounds for number, bounds, _, _ in self.topology.faces}
        open_, torn = [], 0
        for shell in self.records.of("CLOSED_SHELL"):
            listed = shell.refs(1)
            if not all(face in faces for face in listed):
                continue  # told of as a wrong reference, or of faces that are no more than points
            uses = Counter(self._edges_of(faces[face] for face in listed))
            single = sum(count == 1 for count in uses.values())
            if single:
                open_.append(shell.number)
                torn += single
        if open_:
            text = f"a closed shell is open: {torn} edges in all bound only one face" + _more(len(open_))
            yield Note("shell-open", text, f"#{open_[0]}")

    def _edges_of(self, bounds: Iterable[list[int]]) -> Iterator[int]:
        for several in bounds:
            for bound in several:
                loop, _ = self.topology.bounds.get(bound, (0, True))
                for coedge in self.topology.loops.get(loop, ()):
                    edge, _ = self.topology.coedges.get(coedge, (0, True))
                    if edge:
                        yield edge


def _is_finite(value: Parameter) -> bool:
    if isinstance(value, float):
        return math.isfinite(value)
    inner = value.parameters if isinstance(value, Typed) else value
    return all(map(_is_finite, inner)) if isinstance(inner, tuple) else True


def _more(count: int) -> str:
    return f" (and {count - 1:,} more)" if count > 1 else ""

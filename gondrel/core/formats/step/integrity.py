"""Whether what the bodies of a STEP file rest on holds: numbers, references, loops and shells.

The kernel takes what it is given: a reference to a wrong record becomes another shape and nobody is told.
So every record reached from a body is looked at: defined once, referring to what its kind refers to, loops
that close, shells whose edges bound two faces, coordinates that are numbers.
Source: ISO 10303-42 (geometry and topology): which entity an attribute may be, and how many.
"""

from __future__ import annotations

import math
import re
import string
from collections import Counter
from collections.abc import Container, Iterable, Iterator
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from gondrel.core.errors import MalformedFile
from gondrel.core.formats.step.card import SHEETS, SOLIDS
from gondrel.core.formats.step.graph import formation_of, relation_of
from gondrel.core.formats.step.links import Flags, Links
from gondrel.core.formats.step.outline import Topology
from gondrel.core.formats.step.placed import Geometry
from gondrel.core.formats.step.records import Records
from gondrel.core.formats.step.rules import ATTRIBUTES, CLASSES, IN_SPACE, NO_REPRESENTATIONS, RULES, STYLES
from gondrel.core.formats.step.tokens import Parameter, Typed
from gondrel.core.formats.step.unit_symbols import is_si_unit
from gondrel.core.model.provenance import Note
from gondrel.core.work.late import late

__all__ = ["Integrity", "integrity_of"]

_sparse = late("scipy.sparse")
_csgraph = late("scipy.sparse.csgraph")

_PLACING = ("ITEM_DEFINED_TRANSFORMATION", "CONTEXT_DEPENDENT_SHAPE_REPRESENTATION", "MAPPED_ITEM",
            "NEXT_ASSEMBLY_USAGE_OCCURRENCE")  # fmt: skip

_WORDS = {
    "CLOSED_SHELL": "a closed shell", "ADVANCED_FACE": "a face", "FACE_SURFACE": "a face",
    "EDGE_CURVE": "an edge", "ORIENTED_EDGE": "an oriented edge", "EDGE_LOOP": "a loop",
}  # fmt: skip
_JUMP = 1e-2
"""Ends of edges that follow each other may lie so far apart, mm, where they are not one vertex."""

_MOST_DANGLING = 100
_FEW = 5_000
_REFERENCE = re.compile(rb"#(\d+)")
_FLAT = re.compile(rb"CARTESIAN_POINT\s*\(\s*'[^']*'\s*,\s*\(\s*[^,()]+,\s*[^,()]+\)\s*\)")
_PAIRS = ("PROPERTY_DEFINITION_REPRESENTATION", "SHAPE_DEFINITION_REPRESENTATION",
          "CONTEXT_DEPENDENT_SHAPE_REPRESENTATION")  # fmt: skip
"""Records that say nothing, and that the kernel dies of, where one of their two references is none."""

_MISSING = "what depends on it is missing"
_LAYERS = 64
"""How often rows that lead nowhere are taken away before the rest is searched."""
_REACH = 1e9
"""Coordinates beyond this, mm, are no part of anything that is made."""

_IS_LETTER = np.isin(np.arange(256), np.frombuffer(string.ascii_letters.encode("ascii"), np.uint8))
_ENDS_WORD = np.isin(np.arange(256), np.frombuffer(b",)#$*", np.uint8))


@dataclass(frozen=True, slots=True)
class Integrity:
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


def integrity_of(records: Records, links: Links, topology: Topology, geometry: Geometry) -> Integrity:
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
    return Integrity(
        tuple(notes), tuple(sorted(looking.senseless)), tuple(_circle(records)),
        tuple(sorted(looking.doubles)), tuple(respelt),
    )  # fmt: skip


def _strange(text: bytes) -> NDArray[np.int64]:
    """Where number signs stand without a digit behind them, exponents of three digits from 300, and words
    that no bracket follows."""
    data = np.frombuffer(text + b"    ", np.uint8)
    signs = np.flatnonzero(data[:-4] == ord("#"))
    signs = signs[~_is_digit(data[signs + 1])]
    powers = np.flatnonzero(data[:-4] == ord("E"))
    powers = powers[powers > 0]
    powers = powers[_is_digit(data[powers - 1]) | (data[powers - 1] == ord("."))]
    behind = powers + 1 + (data[powers + 1] == ord("+"))
    great = _is_digit(data[behind]) & (data[behind] >= ord("3"))
    great &= _is_digit(data[behind + 1]) & _is_digit(data[behind + 2])
    words = np.flatnonzero(_IS_LETTER[data[:-1]] & _ENDS_WORD[data[1:]])
    return np.sort(np.concatenate((signs, powers[great], words))).astype(np.int64)


def _is_digit(signs: NDArray[np.uint8]) -> NDArray[np.bool_]:
    return (signs >= ord("0")) & (signs <= ord("9"))


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
        wanted = np.isin(self.which, [place for place, n in enumerate(self.names) if n in IN_SPACE])
        rows = np.flatnonzero(wanted & (np.diff(self.links.starts) > 0))
        points = np.unique(self.links.targets[self.links.starts[rows]])
        numbers = ((row, self.records.number_at(row)) for row in points[points >= 0].tolist())
        flat = {row for row, n in numbers if n not in self.geometry.points} - self.senseless
        if flat:
            self.senseless.update(flat)
            where = f"#{self.records.number_at(min(flat))}"
            yield Note("record-senseless", "a point in space has other than three coordinates", where)
        for keyword, kind in STYLES.items():
            for record in self.records.of(keyword):
                target = self.records.get(record.ref(1))
                if target is None or (target.keyword and kind not in target.keyword):
                    self.senseless.add(self.records.ordinal(record.number) - 1)

    def _units(self) -> Iterator[Note]:
        """Units of the international system whose prefix or name is no word, so that sizes are in doubt."""
        lost = []
        for record in self.records.of("SI_UNIT"):
            said = record.parts["SI_UNIT"][-2:]  # alone it says its dimensions first
            if len(said) < 2 or not is_si_unit(*said):
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
            rows = sorted(set((np.searchsorted(begins, _strange(text), "right") - 1).tolist()))
        lost = [row for row in rows if row >= 0 and not self._is_sound(row) and row not in self.senseless]
        if lost:
            self.senseless.update(lost)
            where = f"#{self.records.number_at(lost[0])}"
            yield Note("record-senseless", "its text makes no sense" + _more(len(lost)), where)

    def _is_sound(self, row: int) -> bool:
        """Whether a record can be parsed and its parameters are values."""
        try:
            record = self.records.at(row + 1)
        except MalformedFile:
            return False
        wanted = ATTRIBUTES.get(record.keyword)
        if wanted is not None and len(record.parameters) != wanted:
            return False
        return all(_has_sense(value) for part in record.parts.values() for value in part)

    def rings(self) -> Iterator[Note]:
        """Records that refer to each other in a ring, which geometry and topology never do."""
        owners, targets = self.links.owners, self.links.targets
        kept = (targets >= 0) & self.reached[owners]
        rows = _in_rings(owners[kept], targets[kept], len(self.reached))
        own = owners[kept & (owners == targets)]
        ring = sorted({*rows.tolist(), *own.tolist()})
        if ring:
            self.senseless.update(ring)
            text = "refers to itself by way of others" + _more(len(ring))
            yield Note("reference-circular", text, f"#{self._number(ring[0])}")

    def references(self) -> Iterator[Note]:
        """Records that refer to what their kind does not refer to, or to too few or too many."""
        classes = {name: code for code, name in enumerate(CLASSES)}
        of_name = np.array([self._class(name) for name in self.names] or [-1])
        targets = self.links.targets
        class_of = np.where(targets >= 0, of_name[self.which[targets]], -1)
        owners = self.links.owners
        wrong: dict[str, list[int]] = {}
        for keywords, needs in RULES.items():
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
        for keyword, ordinals in wrong.items():
            self.senseless.update(ordinals)
            text = f"{_WORDS.get(keyword, keyword)} does not refer to what it must" + _more(len(ordinals))
            yield Note("reference-wrong", text, f"#{self._number(ordinals[0])}")

    @staticmethod
    def _class(name: str) -> int:
        parts = set(name.split("+"))
        if any(part.endswith("REPRESENTATION") and not part.endswith(NO_REPRESENTATIONS) for part in parts):
            return list(CLASSES).index("shape")
        codes = (code for code, words in enumerate(CLASSES.values()) if not parts.isdisjoint(words))
        return next(codes, -1)

    def numbers(self) -> Iterator[Note]:
        """Points of bodies whose coordinates are no numbers or out of all reach."""
        far = [
            number
            for number, point in self.geometry.points.items()
            if not all(-_REACH <= value <= _REACH for value in point)
        ]
        ordinals = [(n, self.records.ordinal(n)) for n in far]
        numbers = [n for n, ordinal in ordinals if ordinal and self.reached[ordinal - 1]]
        if numbers:
            self.senseless.update(self.records.ordinal(n) - 1 for n in numbers)
            yield Note("coordinate-senseless", "has a coordinate that makes no sense" + _more(len(numbers)),
                       f"#{numbers[0]}")  # fmt: skip

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


def _in_rings(owners: NDArray[np.intp], targets: NDArray[np.intp], count: int) -> NDArray[np.intp]:
    """Rows that lead back to themselves by way of others, none where a file is as it should be.

    Rows that lead nowhere are taken away again and again, which leaves nothing of records that lie in
    layers; only what is left is searched for rings.
    """
    for _ in range(_LAYERS):
        leads_on = np.zeros(count, bool)
        leads_on[owners] = True
        still = leads_on[targets]
        if still.all():
            break
        owners, targets = owners[still], targets[still]
    if not len(owners):
        return np.zeros(0, np.intp)
    ones = np.ones(len(owners), np.int8)
    graph = _sparse.coo_array((ones, (owners, targets)), shape=(count, count)).tocsr()
    _, part = _csgraph.connected_components(graph, directed=True, connection="strong")
    return np.flatnonzero(np.bincount(part)[part] > 1)


def _has_sense(value: Parameter) -> bool:
    """Whether the numbers of a parameter are finite and none of its words stands without a value."""
    if isinstance(value, Typed):
        return bool(value.parameters) and _has_sense(value.parameters)
    if isinstance(value, tuple):
        return all(map(_has_sense, value))
    return not isinstance(value, float) or math.isfinite(value)


def _more(count: int) -> str:
    return f" (and {count - 1:,} more)" if count > 1 else ""

"""A Wavefront OBJ file and its materials as mesh bodies.

Source: the format as its publisher described it (version 3.0), from memory: v, f, o, g, usemtl and
mtllib; newmtl, Kd, d and Tr in the material file. Free-form curves and surfaces are not read.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path

import numpy as np

from gondrel.core.errors import InputError, MalformedFile
from gondrel.core.formats.meshes import Piece, bounds, chosen_unit, model_of_pieces, unit_note
from gondrel.core.formats.settings import AS_SENT, ReceiveSettings
from gondrel.core.kernel.mesh.polygon import triangles_of_polygon
from gondrel.core.model.body import Rgba
from gondrel.core.model.census import Census, Remainder
from gondrel.core.model.facets import welded
from gondrel.core.model.provenance import FileFacts, Note, Provenance
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress
from gondrel.core.work.files import checked_file

__all__ = ["is_obj", "read", "read_card"]

_KINDS = {
    "vn": "normals", "vt": "texture coordinates", "l": "lines", "p": "points", "s": "smoothing groups",
    "usemtl": "materials without a definition", "mtllib": "files that are missing",
    **dict.fromkeys(("vp", "cstype", "deg", "bmat", "step", "curv", "curv2", "surf", "parm", "trim", "hole",
                     "scrv", "sp", "end", "con"), "free-form curves and surfaces"),
}  # fmt: skip
_PASSED = frozenset(("vn", "vt", "vp", "s", "l", "p", "mtllib"))
_STATEMENTS = frozenset(("v", "f", "o", "g", *_KINDS))


def is_obj(head: bytes, path: str) -> bool:
    """Whether a file is OBJ: lines that begin as its records do, vertices among them."""
    lines = [line.strip() for line in head.splitlines()[:-1] or head.splitlines() if line.strip()]
    return (
        bool(lines)
        and all(line.startswith(b"#") or line.split()[0].decode("latin-1") in _STATEMENTS for line in lines)
        and (any(line.startswith(b"v ") for line in lines) or Path(path).suffix.lower() == ".obj")
    )


_LARGEST_MATERIALS = 16_000_000
"""Bytes of a file of materials that are read; it holds no more than colours."""


@dataclass(slots=True)
class _Object:
    name: str
    layers: tuple[str, ...] = ()
    corners: list[tuple[int, int, int]] = field(default_factory=list)
    groups: list[int] = field(default_factory=list)
    materials: dict[str, int] = field(default_factory=dict)


@dataclass(slots=True)
class _Read:
    pieces: list[Piece]
    missing: tuple[str, ...]
    passed: Counter[str]
    vertices: int
    census: Census
    is_cut: bool


def _parse(path: str) -> _Read:
    """Raises InputError, MalformedFile carrying the line."""
    try:
        text = Path(path).read_bytes().decode("utf-8", "replace")
    except OSError as error:
        raise InputError(f"can't be opened: {error.strerror}", file=path) from error
    points: list[tuple[float, float, float]] = []
    objects: list[_Object] = []
    libraries: list[str] = []
    passed: Counter[str] = Counter()
    lines: Counter[tuple[str, str]] = Counter()
    name, material, is_named = "", "", False
    layers: tuple[str, ...] = ()
    current: _Object | None = None
    for number, line in enumerate(text.replace("\\\n", " ").splitlines(), 1):
        words = line.split("#", 1)[0].split()
        if not words:
            continue
        key = words[0]
        lines[key, words[-1] if key in ("usemtl", "mtllib") else ""] += 1
        try:
            if key == "v":
                points.append((float(words[1]), float(words[2]), float(words[3])))
            elif key == "f":
                if current is None:
                    current = _Object(name, layers if is_named else ())
                    objects.append(current)
                _add_face(current, words[1:], points, material)
            elif key == "o":
                name, is_named, current = line.split(None, 1)[1].strip(), True, None
            elif key == "g":
                layers = tuple(words[1:]) if words[1:] != ["default"] else ()
                if not is_named:
                    name = " ".join(words[1:])
                current = None
            elif key == "usemtl":
                material = line.split(None, 1)[1].strip()
            elif key == "mtllib":
                libraries.append(line.split(None, 1)[1].strip())
            elif key not in _PASSED:
                passed[key] += 1
        except (ValueError, IndexError) as error:
            reason = str(error) if isinstance(error, ValueError) and error.args else "a value is missing"
            raise MalformedFile(
                f"the line makes no sense: {reason}", file=path, where=f"line {number}"
            ) from None
    colours, missing = _materials(path, libraries)
    place = np.array(points, float).reshape(-1, 3)
    wrong = np.flatnonzero(~np.isfinite(place).all(axis=1))
    if len(wrong):
        raise MalformedFile("a vertex is not finite", file=path, where=f"vertex {int(wrong[0]) + 1}")
    pieces = [_piece(each, place, colours) for each in objects if each.corners]
    used = {index for each in objects for corner in each.corners for index in corner}
    unused = len(points) - len(used)
    census = _census(lines, colours, missing, unused)
    is_cut = not text.endswith(("\n", "\r"))
    return _Read(pieces, missing, passed, len(points), census, is_cut)


def _census(
    lines: Mapping[tuple[str, str], int],
    colours: Mapping[str, Rgba],
    missing: tuple[str, ...],
    unused: int,
) -> Census:
    """Account for every statement of a file."""
    carried = serving = 0
    rest: Counter[tuple[str, str]] = Counter()
    for (key, word), count in lines.items():
        known = any(name.split()[-1:] == [word] for name in colours)
        if key in ("f", "o", "g") or (key == "usemtl" and known):
            carried += count
        elif key == "v" or (key == "mtllib" and not any(m.split()[-1:] == [word] for m in missing)):
            serving += count
        else:
            rest[_KINDS.get(key, "statements of other kinds"), key] += count
    if unused:
        serving -= unused
        rest["points that no face uses", "v"] += unused
    remainders = tuple(Remainder(*key, count) for key, count in sorted(rest.items()))
    return Census(sum(lines.values()), carried, serving, remainders, "statements")


def _add_face(
    into: _Object, words: list[str], points: list[tuple[float, float, float]], material: str
) -> None:
    indices = []
    for word in words:
        index = int(word.split("/", 1)[0])
        index = index - 1 if index > 0 else len(points) + index
        if not 0 <= index < len(points):
            raise ValueError(f"vertex {word.split('/', 1)[0]} is not there")
        indices.append(index)
    if len(indices) < 3:
        raise ValueError("a face has fewer than three corners")
    group = into.materials.setdefault(material, len(into.materials))
    if len(indices) == 3:
        fans = [(0, 1, 2)]
    else:
        fans = triangles_of_polygon(np.array([points[i] for i in indices]))
    for a, b, c in fans:
        into.corners.append((indices[a], indices[b], indices[c]))
        into.groups.append(group)


def _piece(each: _Object, points: np.ndarray, colours: dict[str, Rgba]) -> Piece:  # type: ignore[type-arg]
    facets = welded(points[np.array(each.corners)], 0.0, np.array(each.groups, np.int32))
    shown = {group: colours[name] for name, group in each.materials.items() if name in colours}
    counts = Counter(each.groups)
    own = None
    if shown and len(shown) == len(each.materials):
        own = shown[max(shown, key=lambda group: counts[group])]
    others = tuple((group, colour) for group, colour in sorted(shown.items()) if colour != own)
    return Piece(each.name, facets, own, others, each.layers)


def _materials(path: str, libraries: list[str]) -> tuple[dict[str, Rgba], tuple[str, ...]]:
    """Colours by material name, and the material files that are not there."""
    colours: dict[str, Rgba] = {}
    missing = []
    for library in libraries:
        library_path = Path(path).parent / library
        try:
            text = checked_file(library_path, _LARGEST_MATERIALS).read_text("utf-8", "replace")
        except (OSError, InputError):
            missing.append(library)
            continue
        name = ""
        for line in text.splitlines():
            words = line.split()
            try:
                if words[:1] == ["newmtl"]:
                    name = line.split(None, 1)[1].strip()
                    colours[name] = Rgba(0.8, 0.8, 0.8)
                elif words[:1] == ["Kd"] and name in colours:
                    red, green, blue = (min(max(float(w), 0.0), 1.0) for w in words[1:4])
                    colours[name] = Rgba(red, green, blue, colours[name].alpha)
                elif words[:1] in (["d"], ["Tr"]) and name in colours:
                    share = float(words[-1]) if words[0] == "d" else 1 - float(words[-1])
                    colours[name] = replace(colours[name], alpha=min(max(share, 0.0), 1.0))
            except (ValueError, IndexError):
                continue
    return colours, tuple(missing)


def read_card(path: str) -> FileFacts:
    """The file card of an OBJ file. Raises InputError, MalformedFile carrying the line."""
    return _card(path, _parse(path), AS_SENT)


def _card(path: str, parsed: _Read, settings: ReceiveSettings) -> FileFacts:
    notes = [] if settings.unit else [unit_note("OBJ", bounds(parsed.pieces))]
    if parsed.passed:
        passed = ", ".join(f"{count} {key}" for key, count in sorted(parsed.passed.items()))
        notes.append(Note("entities-not-taken-over", f"records of which nothing is made: {passed}"))
    if parsed.is_cut:
        notes.append(Note("last-line-open", "its last line has no end; the file may be cut off"))
    triangles = sum(len(p.facets.triangles) for p in parsed.pieces)
    return FileFacts(
        path=str(Path(path).resolve()), bytes=Path(path).stat().st_size, format="obj", variant="text",
        schema="OBJ", length_unit="", mm_per_unit=chosen_unit(settings).mm,
        counts=(
            ("products", 1), ("occurrences", 0), ("meshes", len(parsed.pieces)), ("facets", triangles),
            ("vertices", parsed.vertices),
        ),
        missing_files=parsed.missing, notes=tuple(notes), title="OBJ",
    )  # fmt: skip


def read(
    path: str, store: BlobStore, *, settings: ReceiveSettings = AS_SENT, progress: Progress = SILENT
) -> Model:
    """Read an OBJ file as sent: one mesh body for each object. Raises InputError, MalformedFile."""
    progress.at(0.0, "Reading facets")
    parsed = _parse(path)
    if not parsed.pieces:
        raise MalformedFile("there is no face in it", file=path, where=f"{parsed.vertices} vertices")
    model = model_of_pieces(parsed.pieces, path, store, settings, progress)
    card = _card(path, parsed, settings)
    return replace(
        model, provenance=Provenance(card, "", census=parsed.census), notes=(*card.notes, *model.notes)
    )

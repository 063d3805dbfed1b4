"""An STL file, text or binary, as mesh bodies.

Source: the format as its first publisher described it (1988), from memory: text with one triangle
per facet record; binary with 80 free bytes, a count, and 50 bytes for each triangle, little-endian.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np

from gondrel.core.errors import InputError, MalformedFile
from gondrel.core.formats.meshes import Piece, bounds, chosen_unit, model_of_pieces, unit_note
from gondrel.core.formats.settings import AS_SENT, ReceiveSettings
from gondrel.core.model.census import Census, Remainder
from gondrel.core.model.facets import parted, welded
from gondrel.core.model.provenance import FileFacts, Provenance
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress

__all__ = ["is_stl", "read", "read_card", "read_pieces"]

_HEAD, _RECORD = 84, 50
_LAYOUT = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("attribute", "<u2")])
_VERTEX = re.compile(rb"vertex\s+(\S+)\s+(\S+)\s+(\S+)", re.IGNORECASE)
_SOLID = re.compile(rb"^[ \t]*solid\b[ \t]*([^\r\n]*)", re.IGNORECASE | re.MULTILINE)
_FACET = re.compile(rb"\bfacet\s+normal\b", re.IGNORECASE)
_END = re.compile(rb"\bendsolid\b", re.IGNORECASE)


def is_stl(head: bytes, path: str) -> bool:
    """Whether a file is STL: a solid with facets in text, or of the very size its count asks for."""
    start = head.lstrip()
    if start[:5].lower() == b"solid" and (b"facet" in head.lower() or b"endsolid" in head.lower()):
        return True
    if len(head) < _HEAD:
        return False
    # A file that is cut off is still known by its name; reading it says what is wrong.
    return Path(path).stat().st_size == _size(head) or path.lower().endswith(".stl")


def _size(head: bytes) -> int:
    return _HEAD + _RECORD * int.from_bytes(head[80:84], "little")


def read_pieces(path: str) -> tuple[list[Piece], str]:
    """The solids of a file in its own numbers, and whether it is "text" or "binary".

    Raises:
        InputError: when it can't be opened. MalformedFile: when it is cut off or makes no sense.
    """
    return _parsed(_bytes_of(path), path)


def _bytes_of(path: str) -> bytes:
    try:
        return Path(path).read_bytes()
    except OSError as error:
        raise InputError(f"can't be opened: {error.strerror}", file=path) from error


def _parsed(data: bytes, path: str) -> tuple[list[Piece], str]:
    if len(data) >= _HEAD and len(data) == _size(data):
        return [_binary(data, path)], "binary"
    if data.lstrip()[:5].lower() != b"solid":
        text = f"it is cut off: its count asks for {_size(data):,} bytes, {len(data):,} are there"
        raise MalformedFile(text, file=path, where=f"byte {len(data):,}")
    return list(_text(data, path)), "text"


def _binary(data: bytes, path: str) -> Piece:
    records = np.frombuffer(data, _LAYOUT, offset=_HEAD)
    corners = records["corners"].astype(np.float64)
    _check_finite(corners, path)
    return Piece("", parted(welded(corners, 0.0)))


def _check_finite(corners: np.ndarray, path: str) -> None:  # type: ignore[type-arg]
    wrong = np.flatnonzero(~np.isfinite(corners).all(axis=(1, 2)))
    if len(wrong):
        raise MalformedFile("a corner is not finite", file=path, where=f"facet {int(wrong[0]) + 1}")


def _text(data: bytes, path: str) -> Iterator[Piece]:
    starts = list(_SOLID.finditer(data))
    if not _END.search(data):
        raise MalformedFile("it is cut off: the solid has no end", file=path, where=_line(data, len(data)))
    for place, start in enumerate(starts):
        end = starts[place + 1].start() if place + 1 < len(starts) else len(data)
        part = data[start.end() : end]
        points = _VERTEX.findall(part)
        facets = len(_FACET.findall(part))
        if len(points) != 3 * facets:
            text = f"{facets} facets should have {3 * facets} corners, {len(points)} are there"
            raise MalformedFile(text, file=path, where=_line(data, start.start()))
        if not facets:
            continue
        try:
            corners = np.array(points, dtype="S32").astype(np.float64).reshape(-1, 3, 3)
        except ValueError:
            raise MalformedFile(
                "a corner is no number", file=path, where=_first_wrong(data, start.end(), end)
            ) from None
        _check_finite(corners, path)
        yield Piece(start.group(1).decode("utf-8", "replace").strip(), parted(welded(corners, 0.0)))


def _line(data: bytes, at: int) -> str:
    return f"line {data[:at].count(bytes([10])) + 1}"


def _first_wrong(data: bytes, start: int, end: int) -> str:
    for match in _VERTEX.finditer(data, start, end):
        try:
            [float(value) for value in match.groups()]
        except ValueError:
            return _line(data, match.start())
    return _line(data, start)


def _census(data: bytes, pieces: list[Piece], variant: str) -> Census:
    """Account for header, facets and attribute words; for solids and facets of a text."""
    kept = sum(len(piece.facets.triangles) for piece in pieces)
    rest = []
    if variant == "text":
        heads, facets = len(_SOLID.findall(data)), len(_FACET.findall(data))
        carried, serving = kept + heads, 0
    else:
        records = np.frombuffer(data, _LAYOUT, offset=_HEAD)
        heads, facets, carried = 1, len(records), kept
        has_text = bool(data[:80].strip(b" \0"))
        serving = int(not has_text)
        if has_text:
            rest.append(Remainder("header text", "header", 1))
        words = int(np.count_nonzero(records["attribute"]))
        heads += words
        if words:
            rest.append(Remainder("attribute words of facets", "attribute byte count", words))
    if facets > kept:
        rest.append(Remainder("facets without area", "facet", facets - kept))
    return Census(heads + facets, carried, serving, tuple(rest), "facets and headers")


def read_card(path: str) -> FileFacts:
    """The file card of an STL file. Raises as read_pieces."""
    pieces, variant = read_pieces(path)
    return _card(path, pieces, variant, AS_SENT)


def _card(path: str, pieces: list[Piece], variant: str, settings: ReceiveSettings) -> FileFacts:
    triangles = sum(len(p.facets.triangles) for p in pieces)
    note = unit_note("STL", bounds(pieces))
    return FileFacts(
        path=str(Path(path).resolve()), bytes=Path(path).stat().st_size, format="stl", variant=variant,
        schema="STL", length_unit="", mm_per_unit=chosen_unit(settings).mm,
        counts=(("products", 1), ("occurrences", 0), ("meshes", len(pieces)), ("facets", triangles)),
        notes=() if settings.unit else (note,), title="STL",
    )  # fmt: skip


def read(
    path: str, store: BlobStore, *, settings: ReceiveSettings = AS_SENT, progress: Progress = SILENT
) -> Model:
    """Read an STL file as sent: one mesh body for each solid. Raises as read_pieces."""
    progress.at(0.0, "Reading facets")
    data = _bytes_of(path)
    pieces, variant = _parsed(data, path)
    census = _census(data, pieces, variant)
    if not any(len(p.facets.triangles) for p in pieces):
        raise MalformedFile("there is no facet in it", file=path, where="facet 1")
    model = model_of_pieces(pieces, path, store, settings, progress)
    card = _card(path, pieces, variant, settings)
    return replace(model, provenance=Provenance(card, "", census=census), notes=(*card.notes, *model.notes))

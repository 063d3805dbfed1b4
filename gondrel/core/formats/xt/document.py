"""A file's nodes, whichever form it has, and its file card."""

from __future__ import annotations

from pathlib import Path

from gondrel.core.errors import InputError, MalformedFile
from gondrel.core.formats.xt import attributes as named
from gondrel.core.formats.xt.attributes import AttributeReader
from gondrel.core.formats.xt.binary import read_binary
from gondrel.core.formats.xt.nodes import Document
from gondrel.core.formats.xt.schema import MM_PER_METRE
from gondrel.core.formats.xt.text import is_binary, read_text
from gondrel.core.model.provenance import FileFacts, Note, Writer

__all__ = ["card_of", "open_document", "read_card"]

_RESOLUTION = 1e-5
"""Smallest distance told apart when a body says nothing else, mm (1e-8 m)."""


def open_document(path: str) -> Document:
    """The nodes of a file.

    Raises:
        InputError: when it can't be opened. MalformedFile, UnsupportedContent: as the lexers say.
    """
    try:
        data = Path(path).read_bytes()
    except OSError as error:
        raise InputError(f"can't be opened: {error.strerror}", file=path) from error
    if is_binary(data):
        return read_binary(data, file=path)
    return read_text(data, file=path)


def read_card(path: str) -> FileFacts:
    """The file card of an XT file.

    Raises:
        InputError: when it can't be opened. MalformedFile, UnsupportedContent: as the lexers say.
    """
    return card_of(path, open_document(path))


def card_of(path: str, document: Document) -> FileFacts:
    """The file card from nodes. Raises MalformedFile when their values make no sense."""
    head = document.header
    try:
        counts = _counts(document)
        bodies = (n for n in document.nodes.values() if n.kind == "BODY")
        resolution = [n.in_mm("res_linear") for n in bodies if n["res_linear"]]
        diameters, extent = _diameters(document), _extent(document)
    except (KeyError, TypeError, ValueError, IndexError) as error:
        raise MalformedFile(f"a node's values make no sense ({error})", file=path) from error
    notes = [Note("put-right", remark) for remark in document.remarks]
    newer = head.key.split("_")[1] if head.key.count("_") >= 2 else ""
    return FileFacts(
        path=str(Path(path).resolve()),
        bytes=Path(path).stat().st_size,
        format="parasolid",
        variant=head.variant,
        schema=head.key,
        schema_text=f"{head.version.strip(': ')} (version {newer})" if newer else head.version,
        length_unit="m",
        mm_per_unit=MM_PER_METRE,
        uncertainty=max(resolution) if resolution else _RESOLUTION,
        written_by=Writer(
            system=head.entry("APPL"),
            translator=head.entry("MC_MODEL"),
            author=head.entry("USER"),
            organisation=head.entry("SITE"),
            date=head.entry("DATE"),
        ),
        counts=counts,
        notes=tuple(notes),
        title="Parasolid XT",
        diameters=diameters,
        extent=extent,
    )


_MOST_DIAMETERS = 500


def _diameters(document: Document) -> tuple[float, ...]:
    """Different diameters of cylinders and circles, mm."""
    radii = {n.in_mm("radius") for n in document.nodes.values() if n.kind in ("CYLINDER", "CIRCLE")}
    diameters = {round(2 * r, 9) for r in radii if isinstance(r, float) and r > 0}
    return tuple(sorted(diameters)[:_MOST_DIAMETERS])


def _extent(document: Document) -> float:
    """The largest extent of the points along an axis, mm."""
    points = [n.in_mm("pvec") for n in document.nodes.values() if n.kind == "POINT"]
    columns = list(zip(*(p for p in points if p is not None and len(p) == 3), strict=False))
    return max((max(c) - min(c) for c in columns), default=0.0)


def _counts(document: Document) -> tuple[tuple[str, int], ...]:
    """What the file holds by contract word; bodies that are only bodies of an assembly are no products."""
    kinds = document.counts()
    reader = AttributeReader(document)
    inside = {
        node["owner"]
        for node in document.nodes.values()
        if node.kind == "ATTRIBUTE" and reader.identifier(node) == named.INSIDE
    }
    bodies = [n for n in document.nodes.values() if n.kind == "BODY"]
    instances = [n for n in document.nodes.values() if n.kind == "INSTANCE"]
    solids = sum(1 for n in document.nodes.values() if n.kind == "REGION" and n["type"] == "S")
    return (
        ("products", len(bodies) - len(inside) + kinds["ASSEMBLY"]),
        ("occurrences", sum(1 for n in instances if n["part"] not in inside)),
        ("solids", solids),
        ("sheets", sum(1 for n in bodies if n["body_type"] == 3)),
        ("wires", sum(1 for n in bodies if n["body_type"] == 2)),
        ("faces", kinds["FACE"]),
        ("edges", kinds["EDGE"]),
        ("vertices", kinds["VERTEX"]),
        ("attributes", kinds["ATTRIBUTE"]),
        ("records", len(document.nodes)),
    )

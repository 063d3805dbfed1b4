"""The file card of a STEP file: header facts and counts, read without the kernel."""

from __future__ import annotations

import re
from collections import Counter

from gondrel.core.errors import MalformedFile
from gondrel.core.formats.missing import find_file
from gondrel.core.formats.step.external import DOCUMENTS, external_files
from gondrel.core.formats.step.records import Records, open_records
from gondrel.core.formats.step.tokens import InstanceReference, Parameter
from gondrel.core.formats.step.units import angle_unit, length_units, measure_value, unit_factor
from gondrel.core.model.provenance import FileFacts, Note, Writer

__all__ = [
    "SHEETS",
    "SOLIDS",
    "TESSELLATED",
    "WIRES",
    "card_of",
    "document_definitions",
    "read_card",
    "schema_name",
]

SOLIDS = ("MANIFOLD_SOLID_BREP", "BREP_WITH_VOIDS", "FACETED_BREP")
SHEETS = ("SHELL_BASED_SURFACE_MODEL", "FACE_BASED_SURFACE_MODEL")
CURVE_SETS = ("GEOMETRIC_CURVE_SET", "GEOMETRIC_SET")
WIRES = ("GEOMETRIC_CURVE_SET", "GEOMETRIC_SET", "SHELL_BASED_WIREFRAME_MODEL",
         "EDGE_BASED_WIREFRAME_MODEL")  # fmt: skip
PMI = ("GEOMETRIC_TOLERANCE", "DIMENSIONAL_SIZE", "DIMENSIONAL_LOCATION", "DATUM",
       "ANNOTATION_OCCURRENCE", "TESSELLATED_ANNOTATION_OCCURRENCE", "DRAUGHTING_CALLOUT")  # fmt: skip
TESSELLATED = ("TESSELLATED_SOLID", "TESSELLATED_SHELL", "TRIANGULATED_FACE", "TRIANGULATED_SURFACE_SET",
               "COMPLEX_TRIANGULATED_FACE", "COMPLEX_TRIANGULATED_SURFACE_SET")  # fmt: skip
APPROVALS = ("APPROVAL", "SECURITY_CLASSIFICATION", "CC_DESIGN_APPROVAL")


def _texts(value: Parameter) -> str:
    if isinstance(value, str):
        return value.strip()
    if isinstance(value, tuple):
        return ", ".join(v.strip() for v in value if isinstance(v, str) and v.strip())
    return ""


_EDITION = re.compile(r"10303\s+442\s+(\d+)")
_EDITIONS = {"3": "ed2", "4": "ed3"}
"""Editions of AP242 by the version in the object identifier of its schema, from memory; 1 is the first."""


def schema_name(text: str) -> str:
    """The protocol and edition behind a FILE_SCHEMA entry, else the entry itself.

    Source: ISO 10303-203, -214 and -242, the schema identifiers of their clauses on usage.
    """
    name = text.upper().split("{")[0].strip()
    if name.startswith("CONFIG_CONTROL_DESIGN"):
        return "AP203"
    if "203" in name or name.startswith("CONFIGURATION_CONTROL_3D_DESIGN"):
        return "AP203ed2"
    if name.startswith("AUTOMOTIVE_DESIGN"):
        return "AP214"
    if name.startswith("AP242"):
        edition = _EDITION.search(text)
        return "AP242" + (_EDITIONS.get(edition[1], "") if edition else "")
    return name or text


def _uncertainty(records: Records) -> float | None:
    sizes = []
    for record in records.of("UNCERTAINTY_MEASURE_WITH_UNIT"):
        parameters = record.parts["UNCERTAINTY_MEASURE_WITH_UNIT"]
        value = measure_value(parameters[0]) if parameters else None
        unit = parameters[1] if len(parameters) > 1 else None
        scale = unit_factor(records, unit.number) if isinstance(unit, InstanceReference) else 1.0
        if value is not None and value > 0:
            sizes.append(value * (scale or 1.0))
    return max(sizes) if sizes else None


def _counts(records: Records) -> tuple[tuple[str, int], ...]:
    count = records.count
    styled = count("STYLED_ITEM", "OVER_RIDING_STYLED_ITEM",
                   "CONTEXT_DEPENDENT_OVER_RIDING_STYLED_ITEM")  # fmt: skip
    return (
        ("products", count("PRODUCT_DEFINITION", DOCUMENTS) - len(document_definitions(records))),
        ("occurrences", count("NEXT_ASSEMBLY_USAGE_OCCURRENCE")),
        ("solids", count(*SOLIDS)),
        ("sheets", count(*SHEETS)),
        ("wires", count(*WIRES)),
        ("meshes", count(*TESSELLATED)),
        ("faces", count("ADVANCED_FACE", "FACE_SURFACE")),
        ("styled_items", styled),
        ("layers", count("PRESENTATION_LAYER_ASSIGNMENT")),
        ("properties", count("PROPERTY_DEFINITION")),
        ("faceted", count("FACETED_BREP", "FACETED_BREP_SHAPE_REPRESENTATION") and count("FACETED_BREP")),
        ("records", len(records)),
    )


def document_definitions(records: Records) -> set[int]:
    """The product definitions that stand for documents, not for products."""
    definitions = set()
    for definition in records.of("PRODUCT_DEFINITION", DOCUMENTS):
        parameters = next(iter(definition.parts.values()), ())
        frame = parameters[3] if len(parameters) > 3 else None
        context = records.get(frame.number) if isinstance(frame, InstanceReference) else None
        if context is not None and "document" in context.text(0).lower():
            definitions.add(definition.number)
    return definitions


def _layers(records: Records) -> tuple[tuple[str, int], ...]:
    """Layers by name with the number of items on each."""
    layers: Counter[str] = Counter()
    for record in records.of("PRESENTATION_LAYER_ASSIGNMENT"):
        layers[record.text(0)] += len(record.refs(2))
    return tuple(sorted(layers.items()))


_MOST_DIAMETERS = 500
_LAST_REAL = re.compile(rb"[^;]*,\s*([+-]?\d+\.\d*(?:[Ee][+-]?\d+)?)\s*\)")


def _diameters(records: Records, mm: float) -> tuple[float, ...]:
    """Different diameters of cylinders and circles, mm."""
    diameters: set[float] = set()
    for keyword in ("CYLINDRICAL_SURFACE", "CIRCLE"):
        for _, match in records.matches(keyword, _LAST_REAL):
            diameters.add(round(2 * float(match[1]) * mm, 9))
            if len(diameters) >= _MOST_DIAMETERS:
                break
    return tuple(sorted(diameters))


def _notes(records: Records, units: int) -> list[Note]:
    notes = []
    if units == 0:
        notes.append(Note("no-unit", "the file gives no length unit; millimetres are assumed"))
    if units > 1:
        notes.append(Note("mixed-units", f"the file uses {units} different length units"))
    if pmi := records.count(*PMI):
        text = f"{pmi} records of tolerances, dimensions and annotations are not taken over"
        notes.append(Note("annotations-not-read", text))
    if approvals := records.count(*APPROVALS):
        text = f"{approvals} records of approval and security classification are not taken over"
        notes.append(Note("approvals-not-read", text))
    return notes


def card_of(records: Records) -> FileFacts:
    """The file card from an open index."""
    header = records.header()
    name = header.get("FILE_NAME", ())
    name = name + (None,) * (7 - len(name))
    schema = _texts(header.get("FILE_SCHEMA", ((),))[0])
    units = length_units(records)
    unit = units.most_common(1)[0][0] if units else None
    wanted = sorted(set(external_files(records).values()))
    missing = tuple(m for m in wanted if find_file(m, records.path.parent, (), ()) is None)
    return FileFacts(
        path=str(records.path),
        bytes=records.size,
        format="step",
        variant="text",
        schema=schema_name(schema),
        schema_text=schema,
        length_unit=unit.key if unit else "",
        mm_per_unit=unit.mm if unit else 1.0,
        angle_unit=angle_unit(records),
        uncertainty=_uncertainty(records),
        written_by=Writer(
            system=_texts(name[5]),
            translator=_texts(name[4]),
            author=_texts(name[2]),
            organisation=_texts(name[3]),
            date=_texts(name[1]),
            description=_texts(header.get("FILE_DESCRIPTION", ((),))[0]),
            authorisation=_texts(name[6]),
        ),
        counts=_counts(records),
        missing_files=missing,
        notes=tuple(_notes(records, len(units))),
        title="STEP",
        layers=_layers(records),
        diameters=_diameters(records, unit.mm if unit else 1.0),
        extent=records.extent() * (unit.mm if unit else 1.0),
    )


def check_complete(records: Records) -> None:
    """Refuse a file that stops early. Raises MalformedFile saying where."""
    if records.is_complete:
        return
    last = f"after record #{records.last_number}" if len(records) else "before the first record"
    raise MalformedFile(
        f"the file is cut off {last}: it ends at byte {records.size:,} without END-ISO-10303-21",
        file=str(records.path),
        where=f"byte {records.tail_offset:,}",
        hint="ask the sender for the whole file",
    )


def read_card(path: str) -> FileFacts:
    """The file card of a STEP file.

    Raises:
        InputError: when it can't be opened. MalformedFile: when it is cut off or has no data.
    """
    with open_records(path) as records:
        check_complete(records)
        return card_of(records)

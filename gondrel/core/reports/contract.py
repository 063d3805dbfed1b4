"""The JSON shapes of the command line contract."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from gondrel.core.carriage.forecast import Forecast
from gondrel.core.carriage.ledger import Compared, Proof
from gondrel.core.model.body import Body, BodyFacts, BodyKind
from gondrel.core.model.findings import CheckReport, Finding, Mended, Severity
from gondrel.core.model.mass import totals_of
from gondrel.core.model.product import Product
from gondrel.core.model.provenance import FileFacts
from gondrel.core.model.snapshot import Model

__all__ = [
    "census_object",
    "check_object",
    "counts_object",
    "file_object",
    "forecast_list",
    "inspect_object",
    "mended_object",
    "proof_object",
]

Json = dict[str, Any]


def file_object(card: FileFacts) -> Json:
    """The contract's file object."""
    writer = card.written_by
    return {
        "path": card.path,
        "bytes": card.bytes,
        "format": card.format,
        "variant": card.variant,
        "schema": card.schema,
        "schema_text": card.schema_text,
        "length_unit": card.length_unit,
        "mm_per_unit": card.mm_per_unit if card.length_unit else None,
        "angle_unit": card.angle_unit,
        "uncertainty": card.uncertainty,
        "written_by": {
            "system": writer.system,
            "translator": writer.translator,
            "author": writer.author,
            "organisation": writer.organisation,
            "description": writer.description,
            "authorisation": writer.authorisation,
            "date": writer.date,
        },
        "counts": dict(card.counts),
    }


def _body(body: Body, facts: Mapping[str, BodyFacts]) -> Json:
    measured = facts.get(body.blob)
    shape: Json = {}
    if measured is not None:
        shape = {
            "faces": measured.faces,
            "edges": measured.edges,
            "vertices": measured.vertices,
            "volume": measured.volume,
            "area": measured.area,
            "centroid": list(measured.centroid),
            "bbox": list(measured.bbox),
            "surfaces": dict(measured.surfaces),
            "tolerance": measured.tolerance,
        }
    return {
        "name": body.name,
        "kind": body.kind.value,
        **shape,
        "colour": body.colour.hex if body.colour else None,
        "alpha": body.colour.alpha if body.colour else None,
        "coloured_faces": len(body.face_colours),
        "layer": body.layers[0] if body.layers else None,
        "layers": list(body.layers),
    }


def _product(product: Product, index: Mapping[str, int], facts: Mapping[str, BodyFacts]) -> Json:
    material = product.material
    validation = product.validation
    return {
        "number": product.number,
        "name": product.name,
        "revision": product.revision,
        "description": product.description,
        "material": material.name if material else None,
        "density": material.density if material else None,
        "metadata": {datum.key: datum.value for datum in product.metadata},
        "bodies": [_body(body, facts) for body in product.bodies],
        "bodies_not_loaded": product.unread.bodies if product.unread is not None else 0,
        "children": [
            {
                "product": index[o.product],
                "name": o.name,
                "placement": list(o.placement),
                "colour": o.colour.hex if o.colour else None,
                "metadata": {datum.key: datum.value for datum in o.metadata},
            }
            for o in product.occurrences
        ],
        "validation": None
        if validation is None
        else {
            "volume": validation.volume,
            "area": validation.area,
            "centroid": list(validation.centroid) if validation.centroid else None,
            "children": validation.occurrences,
        },
    }


def inspect_object(model: Model, facts: Mapping[str, BodyFacts]) -> Json:
    """The output of ``gondrel inspect``. The model must have been read from a file."""
    assert model.provenance is not None
    totals = totals_of(model, facts)
    roots = [totals[root] for root in model.roots if root in totals]
    places = list(model.walk())
    kinds = [body.kind for _, body in model.bodies()]
    placed = sum(
        body.kind is BodyKind.SOLID for place in places for body in model.by_id[place.product].bodies
    )
    boxes = [t.bbox for t in roots if t.bbox is not None]
    box = (
        [min(b[i] for b in boxes) for i in range(3)] + [max(b[i] for b in boxes) for i in (3, 4, 5)]
        if boxes
        else None
    )
    index = {p.id: i for i, p in enumerate(model.products)}
    is_whole = not model.unloaded
    return {
        "file": file_object(model.provenance.file),
        "unit_taken": {"unit": model.units.key, "is_assumed": not model.unit_told},
        "products": [_product(product, index, facts) for product in model.products],
        "roots": [index[root] for root in model.roots],
        "totals": {
            "products": len(model.products),
            "occurrences": sum(1 for place in places if place.path),
            "bodies": len(kinds),
            "solids": sum(kind is BodyKind.SOLID for kind in kinds),
            "sheets": sum(kind is BodyKind.SHEET for kind in kinds),
            "placed_solids": placed,
            "placed_volume": sum(t.volume for t in roots) if is_whole else None,
            "placed_area": sum(t.area for t in roots) if is_whole else None,
            "placed_bbox": box if is_whole else None,
            "bodies_not_loaded": sum(p.unread.bodies for p in model.products if p.unread is not None),
            "levels": model.depth,
        },
        **census_object(model),
        "missing_files": list(model.provenance.file.missing_files),
        "notes": [{"code": n.code, "text": n.text, "where": n.where} for n in model.notes],
    }


def census_object(model: Model) -> Json:
    """What became of the records of a model's file; null where it was not taken."""
    census = model.provenance.census if model.provenance is not None else None
    if census is None:
        return {"census": None, "remainder": None}
    return {
        "census": {
            "carried": census.carried,
            "serving": census.serving,
            "remainder": census.remainder,
            "all": census.all,
            "noun": census.noun,
        },
        "remainder": [
            {
                "kind": r.kind,
                "type": r.type,
                "count": r.count,
                "where": list(r.where),
                "is_record": is_record,
            }
            for is_record, several in ((True, census.rest), (False, census.besides))
            for r in several
        ],
    }


def check_object(model: Model, report: CheckReport) -> Json:
    """The output of ``gondrel check``. The model must have been read from a file."""
    assert model.provenance is not None
    names = {body.id: body.name or product.label for product, body in model.bodies()}
    cures = {code: [m.code for m in report.mends if code in m.cures] for code in _codes(report)}
    rows = [
        {"number": number, **_finding(model, names, cures, finding)}
        for number, finding in enumerate(report.findings, 1)
    ]
    troubled = {f.body for f in report.findings if f.body and f.severity is not Severity.NOTE}
    bodies = [body.id for _, body in model.bodies()]
    return {
        "file": file_object(model.provenance.file),
        "findings": rows,
        "counts": {severity.value: report.count(severity) for severity in Severity},
        "bodies_clean": sum(identity not in troubled for identity in bodies),
        "bodies_with_findings": sum(identity in troubled for identity in bodies),
        "examined": sum(count for _, count in report.examined),
        "not_run": [{"code": code, "why": why} for code, why in report.failed],
    }


def counts_object(report: CheckReport) -> Json:
    """How many findings there are of each severity."""
    return {severity.value: report.count(severity) for severity in Severity}


def mended_object(mended: Mended) -> Json:
    """One mend in the shape of the contract."""
    return {
        "code": mended.code,
        "title": mended.title,
        "product": mended.product,
        "body": mended.body,
        "before": dict(mended.before),
        "after": dict(mended.after),
        "outcome": mended.outcome,
        "why": mended.why,
        "deviation": mended.deviation,
    }


def _codes(report: CheckReport) -> set[str]:
    return {finding.code for finding in report.findings}


def _finding(
    model: Model, names: Mapping[str, str], cures: Mapping[str, list[str]], finding: Finding
) -> Json:
    where: Json = {}
    for key in ("face", "edge", "vertex"):
        if getattr(finding, key) >= 0:
            where[key] = getattr(finding, key)
    if finding.point is not None:
        where["point"] = list(finding.point)
    product = model.by_id.get(finding.product)
    described: Json = {
        "code": finding.code,
        "title": finding.title,
        "severity": finding.severity.value,
        "product": product.label if product is not None else "",
        "body": names.get(finding.body, ""),
        "text": finding.text,
        "where": where,
        "mends": cures[finding.code],
    }
    if finding.measured is not None:
        described["measure"] = {"value": finding.measured, "unit": finding.unit, "limit": finding.limit}
    return described


def forecast_list(forecast: Forecast) -> list[Json]:
    """The contract's forecast."""
    return [
        {
            "thing": thing,
            "fate": fate,
            "count": sum(item.weight for item in items),
            "why": why,
            "items": [item.path for item in items],
        }
        for thing, fate, why, items in forecast.groups()
    ]


def _item(compared: Compared) -> Json:
    return {
        "path": compared.item.path,
        "aspect": compared.item.what,
        "before": compared.item.text,
        "after": compared.after,
        "verdict": compared.verdict,
        "detail": compared.detail,
        "announced": compared.announced,
    }


def proof_object(proof: Proof) -> Json:
    """The contract's proof object."""
    return {
        "verdict": proof.verdict,
        "ledger": [
            {
                "thing": entry.thing,
                "before": entry.before,
                "after": entry.after,
                "verdict": entry.verdict,
                "announced": entry.announced,
                "items": [_item(compared) for compared in entry.items],
            }
            for entry in proof.ledger.entries
        ],
        "max_deviation": proof.max_deviation,
        "max_volume_error": proof.max_volume_error,
        "max_shift": proof.max_shift,
        "unannounced_losses": len(proof.unannounced),
        "false_alarms": len(proof.false_alarms),
        "method": proof.method,
        "witness": list(proof.witness),
        "other_reader": [
            {
                "thing": line.thing,
                "item": line.item,
                "before": line.before,
                "after": line.after,
                "verdict": line.verdict,
            }
            for line in proof.other
        ],
    }

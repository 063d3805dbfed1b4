"""Running all checks: each body once however often it is placed, and nothing again that has not changed."""

from __future__ import annotations

import hashlib
import json
import pkgutil
from collections.abc import Iterator
from functools import cache
from importlib import import_module
from pathlib import Path

from gondrel.core.checks import rules
from gondrel.core.checks.base import Check, Flaw
from gondrel.core.checks.overlap import find_overlaps
from gondrel.core.checks.structure import find_in_structure
from gondrel.core.errors import GondrelError
from gondrel.core.kernel.base.shape import shape_from_blob
from gondrel.core.kernel.derive import facts_of
from gondrel.core.kernel.inspect.inspection import Inspection, inspect_shape
from gondrel.core.model.body import Body
from gondrel.core.model.codec import from_plain, to_plain
from gondrel.core.model.facets import Facets, is_facets
from gondrel.core.model.findings import CheckLimits, CheckReport, Finding, Severity
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress, share_work

__all__ = ["all_checks", "check_model"]

_EDITION = 4
"""Raised when checks find other things than before, so that kept results are not used."""


@cache
def all_checks() -> tuple[Check, ...]:
    """Every check, in order of code. Raises ValueError when two have the same code."""
    found: dict[str, Check] = {}
    for module in pkgutil.iter_modules(rules.__path__):
        check: Check = import_module(f"{rules.__name__}.{module.name}").CHECK
        if check.code in found:
            raise ValueError(f"two checks have the code {check.code}")
        found[check.code] = check
    return tuple(found[code] for code in sorted(found))


def check_model(
    model: Model,
    store: BlobStore,
    limits: CheckLimits | None = None,
    *,
    overlaps: bool = True,
    progress: Progress = SILENT,
) -> CheckReport:
    """Run every check on every body and on the structure. A check that can't run is told of by itself.

    Args:
        overlaps: whether to look for placed solids that run into one another.
    """
    limits = limits or CheckLimits()
    blobs = list(model.blobs())
    _check_blobs(blobs, store, limits, progress.part(0.0, 0.65))
    part = progress.part(0.65, 0.7)
    results = {key: _of_blob(store, key, limits) for key in part.each(blobs, "Gathering what was found")}
    findings: list[Finding] = []
    failed: dict[tuple[str, str], None] = {}
    examined: dict[str, int] = {}
    for product, body in model.bodies():
        flaws, count, broken = results[body.blob]
        examined[product.id] = examined.get(product.id, 0) + count
        failed.update({(code, f"{product.label}: {why}"): None for code, why in broken})
        findings += [_finding(code, flaw, product.id, body) for code, flaw in flaws]
    findings += find_in_structure(model, store)
    if overlaps:
        findings += find_overlaps(model, store, progress=progress.part(0.7, 1.0))
    order = {Severity.FAULT: 0, Severity.DOUBT: 1, Severity.NOTE: 2}
    findings.sort(key=lambda f: (order[f.severity], f.code))
    return CheckReport(tuple(findings), tuple(examined.items()), tuple(failed), limits)


def _finding(code: str, flaw: Flaw, product: str, body: Body) -> Finding:
    if code == _MESH.code:
        title, severity, unit = _MESH.title, _MESH.severity, ""
    else:
        check = next(c for c in all_checks() if c.code == code)
        title, severity, unit = check.title, check.severity, check.unit
    return Finding(
        code, title, severity, flaw.text, product, body.id, flaw.face, flaw.edge, flaw.vertex, flaw.point,
        flaw.measured, flaw.limit, unit, edges=flaw.edges,
    )  # fmt: skip


_MESH = Finding("F701", "Mesh that bounds no solid", Severity.FAULT, "")

Result = tuple[list[tuple[str, Flaw]], int, list[tuple[str, str]]]
"""Flaws with their codes, how many things were examined, and checks that failed with why."""


def _kept(limits: CheckLimits) -> str:
    return f"checks-{_EDITION}-{hashlib.sha1(repr(limits).encode()).hexdigest()[:16]}"


_WORTH_SHARING = 2_000_000
"""Size of the bodies to check, bytes, from which starting a second process pays."""


def _check_blobs(blobs: list[str], store: BlobStore, limits: CheckLimits, progress: Progress) -> None:
    """Check what was not checked yet; where it pays a second process does, from the largest body down."""
    kept = _kept(limits)
    sizes = {key: store.size_of(key) for key in blobs if not store.has(key, kept)}
    todo = sorted(sizes, key=sizes.__getitem__)

    def tell(done: int, key: str) -> None:
        progress.at(done / len(todo), f"Checking bodies, {done + 1} of {len(todo)}")

    if sum(sizes.values()) < _WORTH_SHARING:
        for done, key in enumerate(todo):
            tell(done, key)
            _of_blob(store, key, limits)
    else:
        share_work(_check_one, todo, (str(store.folder), limits), before_each=tell)


def _check_one(key: str, folder: str, limits: CheckLimits) -> None:
    _of_blob(BlobStore(Path(folder)), key, limits)


def _of_blob(store: BlobStore, key: str, limits: CheckLimits) -> Result:
    kept = _kept(limits)
    if store.has(key, kept):
        listed, count, broken = json.loads(store.get_as(key, kept))
        return (
            [(code, from_plain(flaw, Flaw)) for code, flaw in listed],
            count,
            [(code, why) for code, why in broken],
        )
    found = _checked(store, key, limits)
    plain = ([(code, to_plain(flaw)) for code, flaw in found[0]], found[1], found[2])
    store.put_as(key, kept, json.dumps(plain).encode())
    return found


def _checked(store: BlobStore, key: str, limits: CheckLimits) -> Result:
    blob = store.get(key)
    if is_facets(blob):
        mesh = Facets.from_bytes(blob)
        flaws = [(_MESH.code, Flaw(str(f), point=f.at, measured=float(f.count))) for f in mesh.flaws()]
        return flaws, len(mesh.triangles), []
    body = inspect_shape(shape_from_blob(blob), facts_of(store, key))
    flaws, broken = [], []
    for check in all_checks():
        try:
            flaws += [(check.code, flaw) for flaw in check.run(body, limits)]
        except (GondrelError, ValueError, ArithmeticError, IndexError, AttributeError, TypeError) as error:
            broken.append((check.code, str(error)))
    return flaws, sum(_examined(body)), broken


def _examined(body: Inspection) -> Iterator[int]:
    yield body.facts.faces
    yield body.facts.edges
    yield body.facts.vertices

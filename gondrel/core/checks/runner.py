"""Running all checks: each body once however often it is placed, and nothing again that has not changed."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from gondrel.core.checks.base import Check, Flaw, Scope
from gondrel.core.checks.catalogue import check_of, checks_in
from gondrel.core.checks.overlap import Shared, find_shared
from gondrel.core.checks.structure import Structure
from gondrel.core.errors import GondrelError
from gondrel.core.kernel.base.shape import shape_from_blob
from gondrel.core.kernel.derive import facts_of
from gondrel.core.kernel.inspect.inspection import Inspection, inspect_shape
from gondrel.core.model.codec import from_plain, to_plain
from gondrel.core.model.facets import Facets, is_facets
from gondrel.core.model.findings import CheckLimits, CheckReport, Finding, Severity
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress, share_work

__all__ = ["check_model"]

FAILURES = (
    GondrelError, ValueError, ArithmeticError, LookupError, AttributeError, TypeError, RuntimeError,
)  # fmt: skip
"""What a check may fail of without taking the others with it; it is told by its code."""

_EDITION = 4
"""Raised when checks find other things than before, so that kept results are not used."""


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
        findings += [_finding(code, flaw, product.id, body.id) for code, flaw in flaws]
    for check, given in _of_whole(model, store, progress.part(0.7, 1.0), failed, overlaps=overlaps):
        whole, why = _run(check, given, limits)
        findings += [_finding(check.code, flaw, flaw.product, flaw.body) for flaw in whole]
        if why:
            failed[check.code, why] = None
    order = {Severity.FAULT: 0, Severity.DOUBT: 1, Severity.NOTE: 2}
    findings.sort(key=lambda f: (order[f.severity], f.code))
    return CheckReport(tuple(findings), tuple(examined.items()), tuple(failed), limits)


def _of_whole(
    model: Model,
    store: BlobStore,
    progress: Progress,
    failed: dict[tuple[str, str], None],
    *,
    overlaps: bool,
) -> Iterator[tuple[Check, Structure | tuple[Shared, ...]]]:
    """The checks of the whole model with what they are given."""
    for check in checks_in(Scope.STRUCTURE):
        yield check, Structure(model, store)
    placed = checks_in(Scope.PLACED) if overlaps else ()
    try:
        shared = tuple(find_shared(model, store, progress=progress)) if placed else ()
    except FAILURES as error:
        failed.update({(check.code, str(error)): None for check in placed})
        return
    for check in placed:
        yield check, shared


def _run(check: Check, given: Any, limits: CheckLimits) -> tuple[list[Flaw], str]:
    """What one check finds, and why it failed where it did; the others go on."""
    try:
        return list(check.run(given, limits)), ""
    except FAILURES as error:
        return [], str(error) or type(error).__name__


def _finding(code: str, flaw: Flaw, product: str, body: str) -> Finding:
    check = check_of(code)
    return Finding(
        code, check.title, check.severity, flaw.text, product, body, flaw.face, flaw.edge, flaw.vertex,
        flaw.point, flaw.measured, flaw.limit, check.unit, flaw.other, flaw.relative, flaw.edges,
    )  # fmt: skip


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
    result = _checked(store, key, limits)
    plain = ([(code, to_plain(flaw)) for code, flaw in result[0]], result[1], result[2])
    store.put_as(key, kept, json.dumps(plain).encode())
    return result


def _checked(store: BlobStore, key: str, limits: CheckLimits) -> Result:
    blob = store.get(key)
    given: Any
    if is_facets(blob):
        given, scope = Facets.from_bytes(blob), Scope.MESH
        count = len(given.triangles)
    else:
        given, scope = inspect_shape(shape_from_blob(blob), facts_of(store, key)), Scope.BODY
        count = sum(_examined(given))
    flaws: list[tuple[str, Flaw]] = []
    broken: list[tuple[str, str]] = []
    for check in checks_in(scope):
        result, why = _run(check, given, limits)
        flaws += [(check.code, flaw) for flaw in result]
        if why:
            broken.append((check.code, why))
    return flaws, count, broken


def _examined(body: Inspection) -> Iterator[int]:
    yield body.facts.faces
    yield body.facts.edges
    yield body.facts.vertices

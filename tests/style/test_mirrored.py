"""Every module has its mirrored test, or it is named here by which it is covered."""

from __future__ import annotations

from pathlib import Path

from tests.conftest import ROOT
from tests.style.tree import inside, modules, reached_from

COVERED: dict[str, str] = {
    "gondrel.__main__": "cli/test_main.py",
    "gondrel.batch": "cli/test_batch.py",
    "gondrel.cli": "cli/test_main.py",
    "gondrel.core.errors": "cli/test_main.py",
    "gondrel.core.arrange": "ui/test_around.py",
    "gondrel.core.carriage": "core/carriage/test_proof.py",
    "gondrel.core.carriage.aspects.meshed": "core/formats/meshes/test_figures.py",
    "gondrel.core.carriage.meshes": "core/formats/meshes/test_figures.py",
    "gondrel.core.carriage.placed": "core/arrange/test_placed.py",
    "gondrel.core.carriage.changes": "core/carriage/test_difference.py",
    "gondrel.core.checks": "core/checks/test_rules.py",
    "gondrel.core.features": "core/features/test_find.py",
    "gondrel.core.kernel.inspect.face_graph": "core/features/test_find.py",
    "gondrel.core.kernel.modelling.part_steps": "core/features/test_rebuild.py",
    "gondrel.core.kernel.modelling.halved": "core/measuring/test_views.py",
    "gondrel.core.kernel.measure.flat_faces": "core/kernel/modelling/test_profiled.py",
    "gondrel.core.register": "core/register/test_register.py",
    "gondrel.core.register.gathering": "core/register/test_crates.py",
    "gondrel.core.register.unpacking": "core/register/test_crates.py",
    "gondrel.core.measuring": "core/measuring/test_sections.py",
    "gondrel.core.measuring.placed": "core/measuring/test_clearances.py",
    "gondrel.core.sheet": "core/measuring/test_outlines.py",
    "gondrel.core.formats": "core/carriage/test_carried.py",
    "gondrel.core.formats.missing": "core/formats/step/test_external.py",
    "gondrel.core.formats.iges": "core/formats/iges/test_read.py",
    "gondrel.core.formats.meshes": "core/formats/meshes/test_figures.py",
    "gondrel.core.formats.obj": "core/formats/meshes/test_obj.py",
    "gondrel.core.formats.step": "core/formats/step/test_read.py",
    "gondrel.core.formats.stl": "core/formats/meshes/test_solids.py",
    "gondrel.core.formats.threemf": "core/formats/meshes/test_solids.py",
    "gondrel.core.formats.xt": "journeys/test_xt.py",
    "gondrel.core.formats.xt.edits": "core/formats/xt/test_parts.py",
    "gondrel.core.integral": "core/integral/test_figures.py",
    "gondrel.core.kernel.base": "core/kernel/measure/test_mass.py",
    "gondrel.core.kernel.convert": "journeys/test_xt.py",
    "gondrel.core.kernel.derive": "core/kernel/test_field.py",
    "gondrel.core.kernel.examples": "core/checks/test_rules.py",
    "gondrel.core.kernel.exchange": "core/formats/step/test_read.py",
    "gondrel.core.kernel.exchange.iges_in": "core/formats/iges/test_read.py",
    "gondrel.core.kernel.exchange.iges_out": "core/formats/iges/test_read.py",
    "gondrel.core.kernel.exchange.stock": "core/carriage/test_other.py",
    "gondrel.core.kernel.geometry": "core/formats/xt/test_bodies.py",
    "gondrel.core.kernel.inspect": "core/checks/test_rules.py",
    "gondrel.core.kernel.inspect.dihedral": "core/kernel/modelling/test_edits.py",
    "gondrel.core.kernel.inspect.small_faces": "core/kernel/modelling/test_edits.py",
    "gondrel.core.kernel.inspect.frames": "core/arrange/test_aligning.py",
    "gondrel.core.kernel.measure": "core/carriage/test_proof.py",
    "gondrel.core.kernel.measure.overlap": "core/checks/test_overlap.py",
    "gondrel.core.kernel.measure.point_on_face": "core/kernel/repair/test_reface.py",
    "gondrel.core.kernel.mesh": "core/formats/meshes/test_solids.py",
    "gondrel.core.kernel.modelling": "core/kernel/measure/test_mass.py",
    "gondrel.core.kernel.modelling.followed": "core/kernel/modelling/test_edits.py",
    "gondrel.core.kernel.modelling.rigid": "core/kernel/exchange/test_outline_check.py",
    "gondrel.core.kernel.repair": "core/mends/test_mends.py",
    "gondrel.core.kernel.topology": "core/formats/xt/test_bodies.py",
    "gondrel.core.kernel.topology.bounding": "core/service/test_source.py",
    "gondrel.core.kernel.topology.coedges": "core/checks/test_rules.py",
    "gondrel.core.mends": "core/mends/test_mends.py",
    "gondrel.core.mends.mesh": "core/formats/meshes/test_solids.py",
    "gondrel.core.model": "core/carriage/test_carried.py",
    "gondrel.core.kernel.measure.gaping": "core/recipients/test_pairs.py",
    "gondrel.core.kernel.topology.resewing": "core/recipients/test_pairs.py",
    "gondrel.core.recipients": "core/recipients/test_pairs.py",
    "gondrel.core.recipients.questions": "core/recipients/test_card.py",
    "gondrel.core.recipients.stand_ins.keys": "core/recipients/test_card.py",
    "gondrel.core.model.depth": "core/arrange/test_outside.py",
    "gondrel.core.reports.drawn": "core/reports/test_handover.py",
    "gondrel.core.reports.recipients": "core/recipients/test_learning.py",
    "gondrel.core.model.tables": "core/service/test_batch.py",
    "gondrel.core.service.handover": "core/reports/test_handover.py",
    "gondrel.core.service.recipients": "core/recipients/test_learning.py",
    "gondrel.core.service.sendings": "ui/session/test_addressing.py",
    "gondrel.jobs.pool": "cli/test_batch.py",
    "gondrel.cli.report": "core/reports/test_handover.py",
    "gondrel.cli.program": "cli/test_main.py",
    "gondrel.ui.shell.recipient_pages": "ui/session/test_addressing.py",
    "gondrel.core.recipients.results": "core/recipients/test_pairs.py",
    "gondrel.core.reports": "core/reports/test_document.py",
    "gondrel.core.reports.contract": "cli/test_shapes.py",
    "gondrel.core.reports.other": "cli/test_main.py",
    "gondrel.core.service": "cli/test_main.py",
    "gondrel.core.service.saved": "core/service/test_saved.py",
    "gondrel.core.work": "jobs/test_worker.py",
    "gondrel.demo": "core/checks/test_planted.py",
    "gondrel.jobs": "cli/test_main.py",
    "gondrel.ui": "ui/shell/test_window.py",
}
"""The test that covers a module or all of a place; the narrowest place speaks."""


def mirrored(module: str) -> Path:
    parts = module.split(".")[1:]
    return ROOT.joinpath("tests", *parts[:-1], f"test_{parts[-1]}.py")


def covering(module: str) -> Path | None:
    """The test that covers a module, None when none is named."""
    if mirrored(module).exists():
        return mirrored(module)
    place = max((p for p in COVERED if inside(module, p)), key=len, default="")
    return ROOT / "tests" / COVERED[place] if place else None


def _tested() -> list[str]:
    return [m for m, p in modules().items() if p.name != "__init__.py"]


def test_every_module_is_covered_by_a_test_there_is() -> None:
    missing = [m for m in _tested() if (test := covering(m)) is None or not test.exists()]
    assert missing == []


def test_the_covering_test_leads_to_the_module() -> None:
    apart = [m for m in _tested() if (test := covering(m)) is not None and m not in reached_from(test)]
    assert apart == []


def test_every_name_in_the_list_is_needed() -> None:
    used = {
        max((p for p in COVERED if inside(m, p)), key=len, default="")
        for m in _tested()
        if not mirrored(m).exists()
    }
    assert set(COVERED) - used == set()


def test_what_is_not_covered_is_found() -> None:
    assert covering("gondrelx.made.up") is None
    assert "gondrel.ui.shell.window" not in reached_from(ROOT / "tests/core/integral/test_figures.py")

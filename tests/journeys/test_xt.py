"""STEP to XT and back to STEP: outside files and the demo."""

from __future__ import annotations

from pathlib import Path

import pytest
from OCP.BRepCheck import BRepCheck_Analyzer

from gondrel.core.kernel.shape import shape_from_blob
from gondrel.core.model.body import BodyKind
from gondrel.core.model.store import BlobStore
from gondrel.core.service.receive import measure_all, receive
from gondrel.core.service.send import send, settings_from
from tests.conftest import outside
from tests.core.formats.xt import referee

pytestmark = pytest.mark.slow

KINDS = ("xt-text", "xt-binary")


def _sent(model, out: Path, kind: str, store: str):
    sent = send(model, str(out), kind, settings_from({}), store)
    assert not sent.proof.unannounced, sent.proof.unannounced
    assert not sent.proof.false_alarms, sent.proof.false_alarms
    return sent


def _check_bodies(model, store: str) -> None:
    for _, body in model.bodies():
        if body.kind is BodyKind.SOLID:
            assert BRepCheck_Analyzer(shape_from_blob(BlobStore(Path(store)).get(body.blob))).IsValid()


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("which", ["demo", "as1"])
def test_assemblies_there_and_back(which, kind, demo_file, as1, tmp_path, store_folder) -> None:
    model = receive(demo_file if which == "demo" else as1, store_folder)
    facts = measure_all(model.blobs(), store_folder)
    out = tmp_path / ("out.x_t" if kind == "xt-text" else "out.x_b")
    there = _sent(model, out, kind, store_folder)
    lost = {e.thing for e in there.proof.ledger.entries if e.verdict == "lost"}
    assert lost <= {"validation"}
    assert there.proof.max_volume_error < 1e-7 and there.proof.max_deviation < 1e-5
    _check_bodies(there.returned, store_folder)
    found = referee.judge(out.read_bytes())
    assert found.complete and found.brep.topology.valid and not found.brep.diagnostics

    back = _sent(there.returned, tmp_path / "back.stp", "step-ap242", store_folder)
    assert not [e for e in back.proof.ledger.entries if e.verdict == "lost"]
    _check_bodies(back.returned, store_folder)
    last = measure_all(back.returned.blobs(), store_folder)
    volumes = [
        sorted(f[b.blob].volume for _, b in m.bodies()) for m, f in ((model, facts), (back.returned, last))
    ]
    assert volumes[1] == pytest.approx(volumes[0], rel=1e-7)
    names = [sorted((p.number, p.name, p.revision) for p in m.products) for m in (model, back.returned)]
    assert names[0] == names[1]
    colours = [sorted(b.colour.label for _, b in m.bodies() if b.colour) for m in (model, back.returned)]
    assert colours[0] == colours[1]
    assert len(list(model.occurrences())) == len(list(back.returned.occurrences()))


@pytest.mark.parametrize("name", ["screw.step", "linkrods.step"])
def test_outside_parts(name, tmp_path, store_folder) -> None:
    """Debian's occt-misc. The link rods' edges lie up to 4e-4 mm off their faces as sent."""
    model = receive(str(outside(Path("/usr/share/opencascade/data/step")) / name), store_folder)
    sent = _sent(model, tmp_path / "out.x_t", "xt-text", store_folder)
    assert sent.proof.max_volume_error < (1e-7 if name == "screw.step" else 1e-5)
    _check_bodies(sent.returned, store_folder)
    back = _sent(sent.returned, tmp_path / "back.stp", "step-ap214", store_folder)
    assert back.proof.max_volume_error < (1e-6 if name == "screw.step" else 1e-4)

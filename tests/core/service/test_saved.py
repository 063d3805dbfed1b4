"""Crossings of every version open; what is stored is what the newest schema says, and nothing else."""

from __future__ import annotations

import json
import zipfile
from pathlib import Path
from typing import Any

import pytest

from gondrel.core.errors import MalformedFile, UnsupportedContent
from gondrel.core.model.store import BlobStore
from gondrel.core.service.crossing import Crossing, save_crossing
from gondrel.core.service.opening import load_crossing
from gondrel.core.service.saved.schema import VERSION, check_shape, schema_of, stored_schema
from gondrel.core.service.saved.upgrade import upgraded

pytestmark = pytest.mark.slow

GOLDEN = Path(__file__).parent / "golden"


def _head(path: Path) -> dict[str, Any]:
    with zipfile.ZipFile(path) as archive:
        head: dict[str, Any] = json.loads(archive.read("crossing.json"))
    return head


def test_the_newest_schema_is_what_is_stored() -> None:
    """When this fails, what is stored has changed: give it a version, a schema file and an upgrade."""
    assert schema_of(Crossing) == stored_schema(VERSION)


def test_there_is_a_golden_file_and_a_schema_for_every_version() -> None:
    versions = range(1, VERSION + 1)
    assert sorted(p.name for p in GOLDEN.glob("*.crossing")) == [f"version-{v}.crossing" for v in versions]
    for version in versions:
        check_shape(_head(GOLDEN / f"version-{version}.crossing")["crossing"], version)


@pytest.mark.parametrize("version", range(1, VERSION + 1))
def test_golden_files_open_and_hold_what_was_in_them(version, tmp_path) -> None:
    store = BlobStore(tmp_path / "store")
    crossing = load_crossing(GOLDEN / f"version-{version}.crossing", store)
    assert crossing.name == "gear"
    assert [step.name for step in crossing.history.steps] == ["Receive", "Change revision", "Rename"]
    assert crossing.history.at == 1
    model = crossing.model
    assert model is not None
    assert sorted((p.number, p.name, p.revision) for p in model.products) == [
        ("P-2", "Plate", "A"), ("P-3", "Pin", "D"), ("T-1", "Top", "C"),
    ]  # fmt: skip
    plate = model.product(next(p.id for p in model.products if p.name == "Plate"))
    (body,) = plate.bodies
    assert body.hidden and body.colour is not None and body.colour.hex == "#ff0000"
    assert dict(body.face_names) == {0: "top", 3: "bore"} and len(body.face_metadata) == 2
    assert plate.material is not None and plate.material.density == 7850.0
    kinds = {particular.kind for particular in plate.particulars}
    assert {"alias", "approval", "document", "security class"} <= kinds and len(plate.references) == 4
    assert [use.name for use in model.product(model.roots[0]).occurrences] == [
        "plate",
        "pin left",
        "pin right",
    ]
    assert crossing.sent is not None and crossing.sent.kind == "step-ap214"
    assert not crossing.sent.proof.unannounced
    assert len(crossing.hidden) == 1 and len(crossing.sources) == 1
    for key in crossing.blobs():
        assert store.get(key)
    if version >= 2:
        assert len(body.edge_colours) == 2 and len(body.appearance) == 2
    if version >= 5:
        (view,) = crossing.views
        assert view.name == "Middle" and view.cut.planes[0].point == (0.0, 0.0, 5.0)
        assert view.drawn_out == ((("o1",), 12.0),) and view.dimensions[0].text == "1.000 mm"
    if version >= 6:
        waits = next(p.unread for p in model.products if p.name == "Pin")
        assert waits is not None and (waits.record, waits.bodies) == (117, 1) and len(waits.box) == 6


@pytest.mark.parametrize("version", range(1, VERSION + 1))
def test_a_golden_file_saved_again_is_of_todays_version(version, tmp_path) -> None:
    store = BlobStore(tmp_path / "store")
    crossing = load_crossing(GOLDEN / f"version-{version}.crossing", store)
    save_crossing(crossing, tmp_path / "again.crossing", store)
    assert _head(tmp_path / "again.crossing")["version"] == VERSION
    assert load_crossing(tmp_path / "again.crossing", store) == crossing


@pytest.mark.parametrize(
    ("change", "where"),
    [
        (lambda c: c["history"]["steps"][0]["model"]["products"][0].update(name=3), "products"),
        (lambda c: c["history"]["steps"][0]["model"]["products"][0].update(colour="red"), "products"),
        (lambda c: c["history"]["steps"][0].pop("model"), "history.steps"),
        (lambda c: c.update(hidden="none"), "hidden"),
        (lambda c: c["sources"][0].update(is_cut="no"), "sources"),
        (lambda c: c["views"][0]["cut"].update(planes=[1]), "views"),
    ],
)
def test_another_shape_is_refused_with_its_place(change, where) -> None:
    plain = _head(GOLDEN / f"version-{VERSION}.crossing")["crossing"]
    change(plain)
    with pytest.raises(MalformedFile) as caught:
        upgraded(plain, VERSION)
    assert where in caught.value.where


def test_a_newer_version_is_refused_by_name(tmp_path) -> None:
    path = tmp_path / "newer.crossing"
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr(
            "crossing.json", json.dumps({"format": "gondrel-crossing", "version": VERSION + 1})
        )
    with pytest.raises(UnsupportedContent, match="newer"):
        load_crossing(path, BlobStore(tmp_path / "store"))

"""Reading as sent, and what broken files lead to."""

from __future__ import annotations

import random
import re
from collections import Counter
from pathlib import Path

import pytest

from gondrel.core.errors import GondrelError, InputError, MalformedFile, UnknownFormat
from gondrel.core.kernel.derive import facts_of
from gondrel.core.model.store import BlobStore
from gondrel.core.service.receive import measure_all, receive
from gondrel.core.service.send import send
from gondrel.core.service.settings import settings_from
from gondrel.jobs.messages import Job
from gondrel.jobs.worker import Worker, run_blocking
from tests.builders import small_assembly

pytestmark = pytest.mark.slow


@pytest.fixture
def written(tmp_path: Path, store_folder: str) -> str:
    model = small_assembly(BlobStore(Path(store_folder)))
    path = str(tmp_path / "small.stp")
    send(model, path, "step-ap242", settings_from({}), store_folder)
    return path


def test_identity_looks_and_structure_come_in(written: str, store_folder: str) -> None:
    model = receive(written, store_folder)
    top = model.product(model.roots[0])
    assert (top.number, top.name, top.revision, top.description) == ("T-1", "Top", "C", "the whole")
    assert [(m.key, m.value) for m in top.metadata] == [
        ("Text", "it's \\ \u65e5\u672c"), ("Count", 7), ("Weight", 0.125), ("Checked", True),
    ]  # fmt: skip
    assert [b.name for b in top.bodies] == ["L\u00f6tpunkt"]
    assert [o.name for o in top.occurrences] == ["plate", "pin left", "pin right"]
    pin = {o.product for o in top.occurrences[1:]}
    assert len(pin) == 1, "the pin is shared"
    assert top.occurrences[1].colour is not None
    assert top.occurrences[1].colour.hex == "#0000ff"
    assert top.occurrences[1].metadata[0].value == "12"
    plate = model.product(top.occurrences[0].product)
    assert plate.material is not None
    assert (plate.material.name, plate.material.density) == ("Steel S235", 7850.0)
    (body,) = plate.bodies
    assert body.layers == ("A", "B")
    assert {i: c.label for i, c in body.face_colours} == {0: "#0000ff", 6: "#339966 50 % transparent"}


def test_every_unit_gives_the_same_size(tmp_path: Path, store_folder: str) -> None:
    model = small_assembly(BlobStore(Path(store_folder)))
    want = measure_all(model.blobs(), store_folder)
    volumes = sorted(f.volume for f in want.values())
    for unit in ("mm", "inch", "m", "cm", "foot", "mil", "um"):
        path = str(tmp_path / f"{unit}.stp")
        send(model, path, "step-ap214", settings_from({"unit": unit}), store_folder)
        back = receive(path, store_folder)
        assert back.units.key == unit
        got = sorted(facts_of(BlobStore(Path(store_folder)), key).volume for key in back.blobs())
        assert got == pytest.approx(volumes, rel=1e-9)
        top = back.product(back.roots[0])
        assert top.validation is not None
        assert top.validation.volume == pytest.approx(
            24000 - 360 * 3.14159265358979 + 2 * 900 * 3.14159265358979 + 125
        )


def test_planes_moved_apart_are_not_closed_up_silently(
    written: str, tmp_path: Path, store_folder: str
) -> None:
    """The kernel's default reading mends the gap without a word; ours keeps and tells it."""
    text = Path(written).read_text()
    # the plate's top plane stands at z = 10; its points keep their place, the surface moves
    planes = dict(re.findall(r"#(\d+)=PLANE\('',#(\d+)\);", text))
    moved = 0
    for axis in planes.values():
        point = re.search(rf"#{axis}=AXIS2_PLACEMENT_3D\('',#(\d+),", text)
        assert point is not None
        old = re.search(rf"#{point[1]}=CARTESIAN_POINT\('',\(([^)]*)\)\);", text)
        assert old is not None
        x, y, z = (float(v) for v in old[1].split(","))
        if (x, y, z) == (0.0, 0.0, 10.0):
            text = text.replace(old[0], f"#{point[1]}=CARTESIAN_POINT('',(0.,0.,10.05));")
            moved += 1
    assert moved == 1
    bad = tmp_path / "gap.stp"
    bad.write_text(text)
    model = receive(str(bad), store_folder)
    plate = next(p for p in model.products if p.name == "Plate")
    facts = measure_all(model.blobs(), store_folder)
    found = facts[plate.bodies[0].blob]
    assert found.volume != pytest.approx(24000 - 360 * 3.14159265358979, rel=1e-3), "not repaired"
    assert found.tolerance == pytest.approx(1e-7), "no tolerance was widened to hide the gap"


BROKEN = {
    "empty": (b"", InputError, "empty"),
    "noise": (bytes(range(256)) * 40, UnknownFormat, "not a file"),
    "header only": (b"ISO-10303-21;HEADER;ENDSEC;END-ISO-10303-21;", MalformedFile, "no DATA section"),
    "no products": (
        b"ISO-10303-21;HEADER;FILE_SCHEMA(('AUTOMOTIVE_DESIGN'));ENDSEC;DATA;"
        b"#1=CARTESIAN_POINT('',(0.,0.,0.));ENDSEC;END-ISO-10303-21;",
        MalformedFile,
        "no product or shape",
    ),
}


@pytest.mark.parametrize("name", BROKEN)
def test_senseless_files_give_one_clear_error(name: str, tmp_path: Path, store_folder: str) -> None:
    data, kind, words = BROKEN[name]
    path = tmp_path / "bad.stp"
    path.write_bytes(data)
    with pytest.raises(kind, match=words) as caught:
        receive(str(path), store_folder)
    assert "\n" not in str(caught.value)
    assert str(path) in str(caught.value)


@pytest.mark.parametrize("share", [0.02, 0.3, 0.7, 0.999])
def test_truncated_files_say_where_they_end(
    share: float, written: str, tmp_path: Path, store_folder: str
) -> None:
    data = Path(written).read_bytes()
    path = tmp_path / "cut.stp"
    path.write_bytes(data[: int(len(data) * share)])
    with pytest.raises(MalformedFile, match=r"cut off|no DATA section"):
        receive(str(path), store_folder)


def test_foreign_schema_is_read_and_named(written: str, tmp_path: Path, store_folder: str) -> None:
    path = tmp_path / "schema.stp"
    path.write_text(Path(written).read_text().replace("AP242_MANAGED", "SOME_OTHER_SCHEMA_AP_MANAGED"))
    model = receive(str(path), store_folder)
    assert model.provenance is not None
    assert model.provenance.file.schema.startswith("SOME_OTHER_SCHEMA")
    assert sum(1 for _ in model.bodies()) == 3


def test_dangling_reference_gives_a_partial_model_with_notes(
    written: str, tmp_path: Path, store_folder: str
) -> None:
    text = Path(written).read_text()
    shell = re.search(r"#\d+=MANIFOLD_SOLID_BREP\('Platte',#(\d+)\);", text)
    assert shell is not None
    path = tmp_path / "dangling.stp"
    path.write_text(text.replace(shell[0], shell[0].replace(f"#{shell[1]})", "#9999999)")))
    model = receive(str(path), store_folder)
    codes = {note.code for note in model.notes}
    assert "dangling-reference" in codes
    assert "body-not-made" in codes
    assert {p.name for p in model.products} >= {"Top", "Plate", "Pin"}
    assert sum(1 for _ in model.bodies()) == 2


def test_mutilated_files_never_do_worse_than_an_error(
    written: str, tmp_path: Path, store_folder: str
) -> None:
    """Some of them kill the kernel; its process dies alone and that, too, is one clear error."""
    source = Path(written).read_bytes()
    dice = random.Random(20261124)
    worker = Worker("mutants")
    outcomes = Counter[str]()
    try:
        for _ in range(30):
            data = bytearray(source)
            for _ in range(dice.randint(1, 12)):
                data[dice.randrange(300, len(data))] = dice.randrange(32, 127)
            path = tmp_path / "mutant.stp"
            path.write_bytes(bytes(data))
            function = "gondrel.core.service.receive:receive"
            job = Job(function, (str(path), store_folder), doing="reading mutant.stp", seconds=30)
            try:
                run_blocking(worker, job, lambda message: None)
                outcomes["read"] += 1
            except GondrelError as error:
                assert str(error)
                outcomes[type(error).__name__] += 1
    finally:
        worker.close()
    assert sum(outcomes.values()) == 30
    assert "LimitExceeded" not in outcomes
    assert outcomes["read"] and len(outcomes) > 1, outcomes

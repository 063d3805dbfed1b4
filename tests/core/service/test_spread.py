"""Models that go as several files, placed, or as surfaces: proved as one, and by another reader."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest
from OCP.BRepGProp import BRepGProp
from OCP.GProp import GProp_GProps
from OCP.OCP.collections import Sequence_TDF_Label as LabelSequence
from OCP.STEPCAFControl import STEPCAFControl_Reader
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDocStd import TDocStd_Document
from OCP.XCAFDoc import XCAFDoc_DocumentTool

from gondrel.core.errors import CannotExpress, OutputExists, UsageError
from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.kernel.modelling import build
from gondrel.core.model import Body, BodyKind, Model, Occurrence, Product, Rgba
from gondrel.core.model.store import BlobStore
from gondrel.core.service.receive import receive
from gondrel.core.service.send import forecast_for, send
from gondrel.core.service.settings import settings_from
from tests.core.recipients.nasty import nasty

pytestmark = pytest.mark.slow

FORMS = [
    {"files": "each"}, {"files": "linked"}, {"files": "nested"}, {"form": "placed"},
    {"form": "placed", "files": "each"}, {"bodies": "surfaces"}, {"files": "nested", "bodies": "surfaces"},
]  # fmt: skip
MIRRORED = (-1.0, 0.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 0.0, 1.0, 50.0, 0.0, 0.0, 0.0, 1.0)


def whole(store: BlobStore) -> Model:
    """The nasty model with a hollow part, a mirrored component, and looks of components in one place."""
    model = nasty(store)
    hollow = build.cut(build.block(10, 10, 10), build.block(4, 4, 4, at=(3, 3, 3)))
    body = Body("h1", BodyKind.SOLID, "Hollow", store.put(shape_to_blob(hollow)), Rgba(0, 1, 0),
                face_colours=((7, Rgba(1, 0, 0)),))  # fmt: skip
    part = Product("p4", "N-4", "Hollow", bodies=(body,))
    top = model.product("top")
    uses = (
        replace(top.occurrences[0], colour=Rgba(0.2, 0.4, 0.6)), *top.occurrences[1:],
        Occurrence("v4", "p4", "Hollow"), Occurrence("v5", "p1", "Mirrored", MIRRORED),
        Occurrence("v6", "p4", "Hidden", (*MIRRORED[:3], 90.0, *MIRRORED[4:]), hidden=True),
    )  # fmt: skip
    return replace(model.with_product(replace(top, occurrences=uses)), products=(
        replace(top, occurrences=uses), *model.products[1:], part))  # fmt: skip


@pytest.mark.parametrize("kind", ["step-ap242", "step-ap214", "step-ap203", "xt-text", "iges-solid"])
@pytest.mark.parametrize("form", FORMS, ids=["-".join(f.values()) for f in FORMS])
def test_every_form_is_forecast_exactly(
    form: dict[str, str], kind: str, tmp_path: Path, store_folder: str
) -> None:
    model = whole(BlobStore(Path(store_folder)))
    settings = settings_from({**form, "other_reader": "no"})
    if kind == "iges-solid" and form == {"bodies": "surfaces"}:
        with pytest.raises(CannotExpress, match="no body of it could be made"):
            send(model, str(tmp_path / "gate"), kind, settings, store_folder)
        return
    if form.get("files") in ("linked", "nested") and kind not in ("step-ap242", "step-ap214"):
        with pytest.raises(UsageError, match="no files that refer to each other"):
            forecast_for(model, kind, settings, store_folder)
        return
    sent = send(model, str(tmp_path / "gate"), kind, settings, store_folder)
    told = [(c.item.path, c.item.aspect, c.detail) for c in sent.proof.unannounced]
    assert told == []
    assert [(c.path, c.aspect) for c in sent.proof.false_alarms] == []
    count = 1 + len(sent.companions)
    if kind != "iges-solid":  # where the one that gapes can't be written as it lies
        assert count == {"each": 10 if "form" in form else 6}.get(form.get("files", ""), count)
    assert count >= {"linked": 8, "nested": 8}.get(form.get("files", ""), 1)


def _by_the_kernel(path: Path) -> tuple[float, ...]:
    """Volume and centre of everything that the kernel's stock document reader sees."""
    document = TDocStd_Document(TCollection_ExtendedString("x"))
    reader = STEPCAFControl_Reader()
    reader.ReadFile(str(path))
    reader.Transfer(document)
    tool, labels = XCAFDoc_DocumentTool.ShapeTool_s(document.Main()), LabelSequence()
    tool.GetFreeShapes(labels)
    (root,) = list(labels)
    figures = GProp_GProps()
    BRepGProp.VolumeProperties_s(tool.GetShape_s(root), figures, 1e-9)
    centre = figures.CentreOfMass()
    return figures.Mass(), centre.X(), centre.Y(), centre.Z()


def test_an_assembly_in_several_files_is_what_it_is_in_one(
    as1: str, tmp_path: Path, store_folder: str
) -> None:
    model = receive(as1, store_folder)
    seen = {}
    for files in ("one", "linked", "nested"):
        out = tmp_path / files / "as1.stp"
        out.parent.mkdir()
        sent = send(model, str(out), "step-ap242", settings_from({"files": files}), store_folder)
        assert sent.proof.verdict == "carried" and not sent.proof.unannounced
        seen[files] = _by_the_kernel(out)
    assert seen["linked"] == pytest.approx(seen["one"], rel=1e-12)
    assert seen["nested"] == pytest.approx(seen["one"], rel=1e-12)
    nested = sorted(str(p.relative_to(tmp_path / "nested")) for p in (tmp_path / "nested").rglob("*.stp"))
    assert nested == [
        "as1.stp", "l-bracket-assembly/l-bracket.stp", "l-bracket-assembly/nut-bolt-assembly/bolt.stp",
        "nut.stp", "plate.stp", "rod-assembly/rod.stp",
    ]  # fmt: skip


def test_names_that_no_system_takes(tmp_path: Path, store_folder: str) -> None:
    """Slashes, quotes, umlauts, 300 characters, equal but for case."""
    store = BlobStore(Path(store_folder))
    names = ["a/b\\c", 'say "5 : 6"', "Größe Ü", "x" * 300, "X" * 300, "pin", "PIN", "CON", "..", "漢字"]
    parts = [
        Product(f"p{n}", f"N-{n}", name, bodies=(
            Body(f"b{n}", BodyKind.SOLID, name, store.put(shape_to_blob(build.block(n + 1, 2, 3)))),))
        for n, name in enumerate(names)
    ]  # fmt: skip
    far = [(1.0, 0, 0, 20.0 * n, 0, 1.0, 0, 0, 0, 0, 1.0, 0, 0, 0, 0, 1.0) for n in range(len(names))]
    uses = tuple(Occurrence(f"u{n}", p.id, p.name, far[n]) for n, p in enumerate(parts))
    model = Model((Product("top", "T", "Ä/Top", occurrences=uses), *parts), ("top",))
    out = tmp_path / "out" / "top.stp"
    out.parent.mkdir()
    sent = send(model, str(out), "step-ap242", settings_from({"files": "linked"}), store_folder)
    assert not sent.proof.unannounced and sent.proof.verdict == "carried"
    written = [p.name for p in out.parent.iterdir()]
    assert len({name.casefold() for name in written}) == len(names) + 1
    assert all(
        name.isascii() and len(name) <= 110 and not set(name) & set('/\\:"*?<>|') for name in written
    )
    assert not {n.partition(".")[0].upper() for n in written} & {"CON", ""}
    volume = sum((n + 1) * 6 for n in range(len(names)))
    assert _by_the_kernel(out)[0] == pytest.approx(volume, rel=1e-12)


def test_a_rule_names_the_files(tmp_path: Path, store_folder: str) -> None:
    model = nasty(BlobStore(Path(store_folder)))
    settings = settings_from({"files": "each", "file_names": "{number}_{revision}"})
    send(model, str(tmp_path / "x.x_t"), "xt-text", settings, store_folder)
    assert sorted(p.name for p in tmp_path.glob("*.x_t")) == [
        "N-1_B.x_t",
        "N-2_A.x_t",
        "N-3_.x_t",
        "N-5_.x_t",
        "N-6_.x_t",
    ]
    with pytest.raises(UsageError, match="no rule for file names"):
        settings_from({"file_names": "{colour}"})
    with pytest.raises(UsageError, match="no rule for file names"):
        settings_from({"file_names": "part"})


def test_nothing_is_left_where_a_file_stands_in_the_way(
    tmp_path: Path, store_folder: str, as1: str
) -> None:
    model: Any = receive(as1, store_folder)
    (tmp_path / "nut.stp").write_text("mine")
    with pytest.raises(OutputExists, match="is there already"):
        send(
            model, str(tmp_path / "as1.stp"), "step-ap242", settings_from({"files": "nested"}), store_folder
        )
    left = sorted(p.name for p in tmp_path.iterdir() if p.name not in ("store", "state", "config"))
    assert left == ["nut.stp"] and (tmp_path / "nut.stp").read_text() == "mine"


def test_what_goes_as_surfaces_anyway_is_not_opened_besides(
    as1: str, tmp_path: Path, store_folder: str
) -> None:
    settings = settings_from({"bodies": "surfaces", "other_reader": "no"})
    sent = send(receive(as1, store_folder), str(tmp_path / "x"), "iges-surface", settings, store_folder)
    assert not sent.proof.unannounced and not sent.proof.false_alarms

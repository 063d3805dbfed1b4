"""STEP assemblies in several files: read whole, with a file missing, and resolved later."""

from __future__ import annotations

import os
import shutil
from functools import partial
from pathlib import Path

import pytest
from OCP.gp import gp_Trsf, gp_Vec
from OCP.Interface import Interface_Static
from OCP.STEPCAFControl import STEPCAFControl_Controller, STEPCAFControl_Writer
from OCP.STEPControl import STEPControl_StepModelType
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDocStd import TDocStd_Document
from OCP.TopLoc import TopLoc_Location
from OCP.XCAFApp import XCAFApp_Application
from OCP.XCAFDoc import XCAFDoc_DocumentTool

from gondrel.core.carriage.proof import prove_models
from gondrel.core.errors import MalformedFile
from gondrel.core.formats.missing import find_file, leads_outside
from gondrel.core.kernel.derive import deviation_of
from gondrel.core.kernel.modelling.build import block, cylinder
from gondrel.core.model.receiving import ReceiveSettings
from gondrel.core.model.store import BlobStore
from gondrel.core.service.cards import file_card
from gondrel.core.service.receive import measure_all, receive
from gondrel.core.service.send import send
from gondrel.core.service.settings import settings_from
from gondrel.core.service.tether import resolve_missing

pytestmark = pytest.mark.slow


def _document(parts, name: str) -> TDocStd_Document:
    """An assembly of (name, shape, places)."""
    STEPCAFControl_Controller.Init_s()
    # the kernel keeps these for a whole process; a test before may have written otherwise
    for key, value in (("write.step.unit", "MM"), ("write.step.schema", "AP214IS")):
        assert Interface_Static.SetCVal_s(key, value)
    kind = TCollection_ExtendedString("BinXCAF")
    document = TDocStd_Document(kind)
    XCAFApp_Application.GetApplication_s().NewDocument(kind, document)
    shapes = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    top = shapes.NewShape()
    TDataStd_Name.Set_s(top, TCollection_ExtendedString(name))
    for label, shape, places in parts:
        part = shapes.AddShape(shape, False)
        TDataStd_Name.Set_s(part, TCollection_ExtendedString(label))
        for place in places:
            transform = gp_Trsf()
            transform.SetTranslation(gp_Vec(*place))
            use = shapes.AddComponent(top, part, TopLoc_Location(transform))
            TDataStd_Name.Set_s(use, TCollection_ExtendedString(f"{label} at {place[0]}"))
    shapes.UpdateAssemblies()
    return document


def _write(document: TDocStd_Document, folder: Path, name: str) -> None:
    """Write with every part in a file of its own; the kernel does that in the working folder."""
    folder.mkdir(parents=True, exist_ok=True)
    here = Path.cwd()
    os.chdir(folder)
    try:
        writer = STEPCAFControl_Writer()
        writer.Transfer(document, STEPControl_StepModelType.STEPControl_AsIs, "x_")
        writer.Write(name)
    finally:
        os.chdir(here)


@pytest.fixture
def nested(tmp_path: Path) -> Path:
    """main.stp refers to x_sub.stp and x_plate.stp, x_sub.stp to x_pin.stp."""
    folder = tmp_path / "several"
    pins = [(0, 0, 0), (10, 0, 0)]
    _write(_document([("pin", cylinder(3, 20), pins)], "sub"), folder, "sub.stp")
    stand_in = ("sub", block(1, 1, 1), [(0, 0, 5)])
    _write(_document([stand_in, ("plate", block(30, 20, 5), [(0, 0, 0)])], "top"), folder, "main.stp")
    os.replace(folder / "sub.stp", folder / "x_sub.stp")
    return folder


def _shape_of(model) -> list[tuple[str, float]]:
    return sorted(
        (model.product(p.product).name, round(v, 6))
        for p in model.walk() for v in (p.placement[3], p.placement[7], p.placement[11])
    )  # fmt: skip


def test_nested_files_are_read_as_one(nested, tmp_path, store_folder) -> None:
    model = receive(str(nested / "main.stp"), store_folder)
    assert [model.product(r).name for r in model.roots] == ["top"]
    assert {p.name for p in model.products} == {"top", "sub", "pin", "plate"}
    assert model.provenance is not None and not model.provenance.file.missing_files
    assert {Path(p).name for p, _ in model.provenance.files} == {"x_sub.stp", "x_pin.stp", "x_plate.stp"}
    assert len(list(model.walk())) == 5

    # The round trip through a single file is equal to what was read from several.
    sent = send(model, str(tmp_path / "one.stp"), "step-ap242", settings_from({}), store_folder)
    assert sent.proof.verdict == "carried" and not sent.proof.unannounced
    assert _shape_of(sent.returned) == _shape_of(model)


def test_a_missing_file_is_named_and_its_place_kept(nested, tmp_path, store_folder) -> None:
    whole = receive(str(nested / "main.stp"), store_folder)
    other = tmp_path / "elsewhere" / "deep"
    other.mkdir(parents=True)
    shutil.move(nested / "x_pin.stp", other / "x_pin.stp")
    model = receive(str(nested / "main.stp"), store_folder)
    (hole,) = [p for p in model.products if p.missing_file]
    assert (hole.name, hole.missing_file, hole.bodies) == ("pin", "x_pin.stp", ())
    assert len(list(model.walk())) == 5
    (note,) = [n for n in model.notes if n.code == "file-missing"]
    assert note.where == "pin" and "x_pin.stp" in note.text
    assert file_card(str(nested / "x_sub.stp")).missing_files == ("x_pin.stp",)

    store = BlobStore(Path(store_folder))
    for name in ("x_pin.stp", "renamed.stp"):  # found by its name, then by its content
        again, found = resolve_missing(model, str(tmp_path / "elsewhere"), store_folder)
        assert found == 1 and not [p for p in again.products if p.missing_file]
        assert not [n for n in again.notes if n.code == "file-missing"]
        assert _shape_of(again) == _shape_of(whole)
        facts = measure_all((*whole.blobs(), *again.blobs()), store_folder)
        proof = prove_models(whole, again, facts, measure=partial(deviation_of, store))
        assert proof.verdict == "carried", name
        if (other / "x_pin.stp").exists():
            os.replace(other / "x_pin.stp", other / "renamed.stp")

    searched = ReceiveSettings(search=(str(tmp_path / "elsewhere"),))
    assert not [
        p for p in receive(str(nested / "main.stp"), store_folder, searched).products if p.missing_file
    ]
    unchanged, found = resolve_missing(model, str(nested), store_folder)
    assert found == 0 and unchanged.products == model.products


def test_files_that_refer_to_each_other_are_refused(nested, store_folder) -> None:
    shutil.copy(nested / "main.stp", nested / "x_plate.stp")
    model = receive(str(nested / "main.stp"), store_folder)
    told = [n.text for n in model.notes if n.code == "file-not-read"]
    assert told and "itself" in told[0]
    shutil.copy(nested / "x_pin.stp", nested / "x_plate.stp")
    data = (nested / "x_pin.stp").read_bytes()
    (nested / "x_pin.stp").write_bytes(data[: len(data) // 2])
    broken = receive(str(nested / "main.stp"), store_folder)
    assert "file-not-read" in {n.code for n in broken.notes}
    with pytest.raises(MalformedFile):
        receive(str(nested / "x_pin.stp"), store_folder)


@pytest.mark.parametrize("name", ["../secret.stp", "{outside}/secret.stp", "sub/../../secret.stp"])
def test_names_that_lead_out_of_the_folder_are_told_and_not_followed(name, tmp_path: Path) -> None:
    folder, outside = tmp_path / "in", tmp_path
    folder.mkdir()
    (outside / "secret.stp").write_text("x")
    named = name.format(outside=outside)
    assert find_file(named, folder, (), ()) is None
    assert leads_outside(named, folder, ())
    assert find_file(named, folder, (str(outside),), ()) == (outside / "secret.stp").resolve()
    (folder / "secret.stp").write_text("y")
    assert find_file(named, folder, (), ()) == (folder / "secret.stp").resolve()
    assert not leads_outside("secret.stp", folder, ())
    assert find_file("a\0b.stp", folder, (), ()) is None

"""``gondrel draw`` and ``gondrel picture``, read back by others: ezdxf, an XML reader, an image reader, a
PDF reader."""

import io
import json
import math
from pathlib import Path
from xml.etree import ElementTree

import ezdxf
import numpy as np
import pytest
from PIL import Image

from gondrel.cli.app import run
from gondrel.core.errors import UsageError
from gondrel.core.formats.settings import SendSettings
from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.kernel.modelling.build import block, cut, cylinder
from gondrel.core.model import Body, BodyKind, Model, Product, Rgba
from gondrel.core.model.store import BlobStore
from gondrel.core.service.write import write_model


@pytest.fixture(scope="module")
def plate(tmp_path_factory) -> Path:
    """A plate of 60 by 40 by 8 mm with three holes of 6 mm, and a pin through the first."""
    folder = tmp_path_factory.mktemp("plate")
    store = BlobStore(folder / "store")
    made = cut(block(60, 40, 8), *(cylinder(3, 40, at=(x, 20, -20)) for x in (15, 30, 45)))
    key = store.put(shape_to_blob(made))
    body = Body("b", BodyKind.SOLID, "Plate", key, Rgba(0.2, 0.4, 0.6))
    model = Model(products=(Product("p", "P-1", "Plate ä", bodies=(body,)),), roots=("p",))
    path = folder / "plate.stp"
    path.write_bytes(write_model(model, "step-ap242", SendSettings(), store, {}, name="plate"))
    return path


def drawn(capsys, *arguments) -> dict:
    assert run([*map(str, arguments), "--json", "--force"]) == 0
    return json.loads(capsys.readouterr().out)


def lengths(entities) -> float:
    total = 0.0
    for entity in entities:
        if entity.dxftype() == "LINE":
            total += (entity.dxf.end - entity.dxf.start).magnitude
        elif entity.dxftype() == "CIRCLE":
            total += 2 * math.pi * entity.dxf.radius
        else:
            raise AssertionError(f"an unexpected {entity.dxftype()}")
    return total


@pytest.mark.parametrize("version", ["R12", "R2010"])
@pytest.mark.parametrize("unit, factor", [("mm", 1.0), ("inch", 25.4)])
def test_views_as_dxf(plate, tmp_path, capsys, version, unit, factor) -> None:
    out = tmp_path / "plate.dxf"
    told = drawn(
        capsys, "draw", plate, "--out", out, "--view", "front", "--view", "top",
        "--set", f"version={version}", "--set", f"unit={unit}",
    )  # fmt: skip
    front, top = told["views"]
    assert front["visible_length"] == pytest.approx(136) and front["hidden_length"] == pytest.approx(48)
    assert top["visible_length"] == pytest.approx(200 + 18 * math.pi) and top["hidden_length"] == 0
    document = ezdxf.readfile(out)
    assert not document.audit().errors
    space = [e for e in document.modelspace() if e.dxftype() != "TEXT"]
    hidden = [e for e in space if "hidden" in e.dxf.layer.lower()]
    seen = [e for e in space if e not in hidden]
    assert lengths(hidden) * factor == pytest.approx(48, rel=1e-9) and len(hidden) == 6
    assert lengths(seen) * factor == pytest.approx(336 + 18 * math.pi, rel=1e-9)
    assert {document.layers.get(e.dxf.layer).dxf.linetype for e in hidden} == {"DASHED"}
    assert document.header.get("$INSUNITS") == {"mm": 4, "inch": 1}[unit] or version == "R12"


def test_hidden_lines_left_out(plate, tmp_path, capsys) -> None:
    told = drawn(capsys, "draw", plate, "--out", tmp_path / "a.dxf", "--view", "front", "--hidden", "none")
    assert told["views"] == [
        {"name": "front", "visible_length": 136.0, "hidden_length": 0.0, "entities": 4}
    ]


def test_a_section_and_the_flat_face(plate, tmp_path, capsys) -> None:
    told = drawn(capsys, "draw", plate, "--out", tmp_path / "a.dxf", "--view", "section=0,20,4,0,-1,0")
    document = ezdxf.readfile(tmp_path / "a.dxf")
    cut_lines = [e for e in document.modelspace() if e.dxf.layer.endswith("cut")]
    assert lengths(cut_lines) == pytest.approx(2 * (60 - 18) + 8 * 8)
    assert any(e.dxf.layer.endswith("hatching") for e in document.modelspace())
    assert told["views"][0]["hidden_length"] == 0
    flat = drawn(capsys, "draw", plate, "--out", tmp_path / "b.dxf", "--view", "flat")
    assert flat["views"][0]["visible_length"] == pytest.approx(200 + 18 * math.pi)


def test_polylines_tell_how_far_they_lie_off(plate, tmp_path, capsys) -> None:
    told = drawn(
        capsys, "draw", plate, "--out", tmp_path / "a.dxf", "--view", "iso", "--set", "polyline=0.05"
    )
    assert 0 < told["polyline_deviation"] <= 0.05
    kinds = {e.dxftype() for e in ezdxf.readfile(tmp_path / "a.dxf").modelspace()}
    assert kinds == {"LINE", "LWPOLYLINE"}


def test_svg_is_in_true_size(plate, tmp_path, capsys) -> None:
    drawn(capsys, "draw", plate, "--out", tmp_path / "a.svg", "--view", "front")
    root = ElementTree.parse(tmp_path / "a.svg").getroot()
    assert (root.get("width"), root.get("height")) == ("70.0000mm", "18.0000mm")  # 5 mm free on each side


def test_pictures(plate, tmp_path, capsys) -> None:
    out = tmp_path / "a.png"
    drawn(capsys, "picture", plate, "--out", out, "--size", "320x200", "--clear", "--view", "front")
    with Image.open(out) as image:
        assert image.size == (320, 200) and image.mode == "RGBA"
        cover = np.asarray(image)[..., 3] > 127
    rows, columns = np.flatnonzero(cover.any(axis=1)), np.flatnonzero(cover.any(axis=0))
    assert np.ptp(columns) / np.ptp(rows) == pytest.approx(60 / 8, rel=0.03)
    drawn(capsys, "picture", plate, "--out", tmp_path / "a.glb")
    assert (tmp_path / "a.glb").read_bytes()[:4] == b"glTF"


def test_a_page_says_what_it_shows(plate, tmp_path, capsys) -> None:
    pdf = pytest.importorskip("pypdfium2")
    out = tmp_path / "a.pdf"
    drawn(
        capsys, "picture", plate, "--out", out, "--as", "step-ap203", "--set", "title.Drawn=L. Amberly",
        "--set", "sheet=A4",
    )  # fmt: skip
    document = pdf.PdfDocument(io.BytesIO(out.read_bytes()))
    assert len(document) == 1
    assert [v * 25.4 / 72 for v in document[0].get_size()] == pytest.approx([297, 210], abs=0.5)
    text = document[0].get_textpage().get_text_range()
    for word in ("P-1", "L. Amberly", "Scale", "colours", "lost", "Volume"):
        assert word in text


@pytest.mark.parametrize(
    "arguments",
    [
        ("draw", "--out", "a.png"), ("draw", "--out", "a.dxf", "--view", "aslant"),
        ("draw", "--out", "a.dxf", "--view", "section=1,2"), ("draw", "--out", "a.dxf", "--hidden", "grey"),
        ("draw", "--out", "a.dxf", "--set", "version=R99"), ("picture", "--out", "a.bmp"),
        ("picture", "--out", "a.png", "--size", "1x1"), ("draw", "--out", "a.dxf", "--select", "nothing"),
    ],
)  # fmt: skip
def test_what_is_none_is_refused(plate, tmp_path, monkeypatch, arguments) -> None:
    monkeypatch.chdir(tmp_path)
    with pytest.raises(UsageError):
        run([arguments[0], str(plate), *arguments[1:]])
    assert not list(tmp_path.glob("a.*"))

"""The report that goes with a file: its values are those of inspect, nothing is told a hundred times."""

from __future__ import annotations

import json
import re
import struct
import zlib
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from weasyprint import HTML

from gondrel.cli.main import main
from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.kernel.derive import mesh_of
from gondrel.core.kernel.modelling import build
from gondrel.core.model import Body, BodyKind, Model, Product, Rgba
from gondrel.core.model.store import BlobStore
from gondrel.core.reports.drawn import drawn

pytestmark = pytest.mark.slow


def pixels(png: bytes) -> Any:
    """A PNG without filters, as (height, width, 3)."""
    width, height = struct.unpack(">II", png[16:24])
    data = b"".join(
        png[m.end() : m.end() + struct.unpack(">I", png[m.start() - 4 : m.start()])[0]]
        for m in re.finditer(b"IDAT", png)
    )
    rows = np.frombuffer(zlib.decompress(data), np.uint8).reshape(height, 1 + 3 * width)
    return rows[:, 1:].reshape(height, width, 3)


def test_a_picture_shows_what_is_in_front_in_its_colour(tmp_path: Path) -> None:
    """From the front a red block hides a green one behind it; the blue one beside them is seen."""
    store = BlobStore(tmp_path)

    def body(key: str, shape: object, colour: Rgba) -> Body:
        blob = store.put(shape_to_blob(shape))  # type: ignore[arg-type]
        mesh_of(store, blob)
        return Body(key, BodyKind.SOLID, key, blob, colour)

    bodies = (
        body("r", build.block(10, 2, 10), Rgba(1, 0, 0)),
        body("g", build.block(10, 2, 10, at=(0, 5, 0)), Rgba(0, 1, 0)),
        body("b", build.block(10, 2, 10, at=(10, 0, 0)), Rgba(0, 0, 1)),
    )
    model = Model((Product("p", "", "P", bodies=bodies),), ("p",))
    image = pixels(drawn(model, store, view="front", size=(200, 120))).astype(int)
    left, right = image[60, 60], image[60, 140]
    assert left[0] > 120 and left[1] == left[2] == 0 and right[2] > 120 and right[0] == right[1] == 0
    assert (image[2, 2] == 255).all() and not ((image[:, :, 1] > 100) & (image[:, :, 0] < 50)).any()


def test_the_report_of_the_demo_says_what_inspect_says_on_two_pages(
    demo_file: str, tmp_path: Path, capsys: Any
) -> None:
    out = tmp_path / "gear.html"
    given = ["report", demo_file, "--out", str(out), "--as", "step-ap203", "--unchecked"]
    assert main(given) == 0 and main(given) == 2, "an existing file needs --force"
    capsys.readouterr()
    assert main(["inspect", demo_file, "--json"]) == 0
    products = json.loads(capsys.readouterr().out)["products"]
    html = out.read_text("utf-8")
    rows = {}
    for row in re.findall(r"<tr>(.*?)</tr>", html[html.index("Check values") :], re.S):
        cells = re.findall(r"<td[^>]*>(.*?)</td>", row, re.S)
        if cells:
            rows[cells[0]] = cells
    parts = [p for p in products if p["bodies"]]
    assert len(rows) == len(parts) == 26
    for part in parts:
        cells = rows[part["number"]]
        body = part["bodies"][0]
        assert float(cells[6].replace(",", "")) == pytest.approx(body["volume"], rel=1e-5)
        assert float(cells[7].replace(",", "")) == pytest.approx(body["area"], rel=1e-5)
        assert int(cells[5]) == body["faces"]
        centroid = [float(v) for v in cells[8].split(",")]
        assert centroid == pytest.approx(body["centroid"], abs=6e-4)
        box = body["bbox"]
        sides = [float(v) for v in cells[9].split("\u00d7")]
        assert sides == pytest.approx([box[i + 3] - box[i] for i in range(3)], abs=6e-4)
    lost = html[html.index("Not carried") : html.index("What remains wrong")]
    assert lost.count("<tr>") <= 8 and "AP203 edition 1 has no place for it" in lost
    assert "step" not in html[html.index("Files") :].lower() or re.search(r"[0-9a-f]{64}", html)
    assert len(HTML(string=html).render().pages) == 2


def test_the_same_as_pdf_for_a_recipient(as1: str, tmp_path: Path, capsys: Any) -> None:
    out = tmp_path / "as1.pdf"
    assert main(["report", as1, "--out", str(out), "--card", "gear-cutter", "--unchecked", "--json"]) == 0
    sent = json.loads(capsys.readouterr().out)["sent"]
    assert sent == [{"path": str(out), "bytes": out.stat().st_size}]
    assert out.read_bytes().startswith(b"%PDF") and out.read_bytes().rstrip().endswith(b"%%EOF")
    assert main(["report", as1, "--out", str(tmp_path / "as1.doc")]) == 2

"""The checker: silent on everything we write, and each rule fires when it is broken."""

from __future__ import annotations

from collections.abc import Callable

import pytest

from gondrel.core.formats.xt.audit import audit
from gondrel.core.formats.xt.nodes import Document
from gondrel.core.formats.xt.text import read_text
from gondrel.core.kernel.convert.boundary_in import BoundaryEdges
from gondrel.core.kernel.convert.incidence import find_incidence
from gondrel.core.kernel.modelling import build
from tests.core.formats.xt.edited import of, set_values
from tests.core.formats.xt.shapes import all_shapes, body_in, document_of, text_of

SHAPES = all_shapes()


@pytest.mark.parametrize("name", SHAPES)
def test_nothing_is_found_in_what_we_write(name: str) -> None:
    document = read_text(text_of(SHAPES[name]))
    assert audit(document) == ()
    assert list(find_incidence(BoundaryEdges(body_in(document).boundary))) == []


def first(document: Document, kind: str, **changes: int | str) -> None:
    set_values(of(document, kind)[0], **changes)


BREAKS: dict[str, tuple[str, Callable[[Document], None]]] = {
    "a face on a curve": ("pointer-astray", lambda d: first(d, "FACE", surface=of(d, "LINE")[0].index)),
    "a face on nothing": ("pointer-astray", lambda d: first(d, "FACE", surface=99_999)),
    "a chain cut": ("chain-broken", lambda d: first(d, "EDGE", next=0)),
    "fins not in turn": ("chain-broken", lambda d: first(d, "FIN", forward=of(d, "FIN")[5].index)),
    "a surface of another face": ("owner-wrong", lambda d: first(d, "PLANE", owner=of(d, "EDGE")[0].index)),
    "an edge without its fins": ("fins-not-listed", lambda d: first(d, "EDGE", fin=of(d, "FIN")[9].index)),
    "a vertex without its fins": ("fins-not-listed", lambda d: first(d, "VERTEX", fin=0)),
    "two fins of one sense": ("sense-wrong", lambda d: [set_values(f, sense="+") for f in of(d, "FIN")]),
    "a fin that ends elsewhere": (
        "loop-not-joined",
        lambda d: first(d, "FIN", vertex=of(d, "VERTEX")[7].index),
    ),
    "material outside": ("region-wrong", lambda d: first(d, "REGION", type="S")),
    "no material": ("region-wrong", lambda d: [set_values(r, type="V") for r in of(d, "REGION")]),
    "a face in no shell": ("region-wrong", lambda d: first(d, "FACE", shell=0, front_shell=0)),
    "one id twice": ("node-id-wrong", lambda d: first(d, "FACE", node_id=of(d, "EDGE")[0]["node_id"])),
    "an id too high": ("node-id-wrong", lambda d: first(d, "BODY", highest_node_id=3)),
}


@pytest.mark.parametrize("name", BREAKS)
def test_each_rule_fires(name: str) -> None:
    code, act = BREAKS[name]
    document = document_of(build.block(10, 20, 30))
    act(document)
    assert code in {flaw.code for flaw in audit(document)}


def test_geometry_used_without_a_record_of_it_is_told(monkeypatch) -> None:
    from gondrel.core.kernel.convert import boundary_out

    monkeypatch.setattr(boundary_out, "EXACT", -1.0)
    document = document_of(build.cylinder(5, 10))
    assert not audit(document)
    for curve in of(document, "SP_CURVE")[:1]:
        index = curve["surface"]
        set_values(document.nodes[index], geometric_owner=0)
    assert "use-not-recorded" in {flaw.code for flaw in audit(document)}


def test_geometry_that_lies_off_is_measured() -> None:
    document = document_of(build.block(10, 20, 30))
    plane = of(document, "PLANE")[0]
    x, y, z = plane["pvec"]
    a, b, c = plane["normal"]
    set_values(plane, pvec=(x + 2e-7 * a, y + 2e-7 * b, z + 2e-7 * c))
    found = list(find_incidence(BoundaryEdges(body_in(document).boundary)))
    assert {code for code, *_ in found} == {"edge-off-surface"}
    assert len(found) == 4 and "0.0002 mm" in found[0][1]

    document = document_of(build.block(10, 20, 30))
    first(document, "POINT", pvec=(0.0, 0.0, 0.0005))
    codes = {code for code, *_ in find_incidence(BoundaryEdges(body_in(document).boundary))}
    assert "vertex-off-edge" in codes or "edge-off-surface" in codes


def test_a_face_on_the_wrong_side_of_its_loop_is_told() -> None:
    document = document_of(build.block(10, 20, 30))
    first(document, "FACE", sense="-")
    assert [code for code, *_ in find_incidence(BoundaryEdges(body_in(document).boundary))] == [
        "loop-on-wrong-side"
    ]

"""Looks of curves and whole assemblies, several revisions, quantities: there and back."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest

from gondrel.core.formats.settings import SendSettings
from gondrel.core.formats.step.records import open_records
from gondrel.core.kernel.base.shape import edges_of, shape_to_blob
from gondrel.core.kernel.measure.spots import edge_spots
from gondrel.core.mends.faces import carried_over
from gondrel.core.model.body import Body, BodyKind, Rgba
from gondrel.core.model.product import Occurrence, Product
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.service.receive import receive
from gondrel.core.service.send import send
from tests.builders import BLUE, RED, block, shifted, small_assembly

pytestmark = pytest.mark.slow

GREEN = Rgba(0.0, 1.0, 0.0)


def _edge(number: int):
    return edges_of(block(60, 40, 10))[number]


def _wires(store: BlobStore, *colours: Rgba) -> Model:
    """Edges of a block that meet, each a body of its own."""
    blobs = [store.put(shape_to_blob(_edge(place))) for place in range(len(colours))]
    bodies = tuple(
        Body(f"b{n}", BodyKind.WIRE, "line", blob, colour)
        for n, (blob, colour) in enumerate(zip(blobs, colours, strict=True))
    )
    return Model((Product("p", "P-1", "Lines", bodies=bodies),), ("p",))


@pytest.mark.parametrize(
    ("kind", "suffix"),
    [("step-ap242", ".stp"), ("step-ap214", ".stp"), ("xt-text", ".x_t"), ("iges-solid", ".igs"),
     ("iges-surface", ".igs")],
)  # fmt: skip
@pytest.mark.parametrize("colours", [(RED, BLUE), (RED, RED, RED)])
def test_curves_that_meet_stay_apart_with_their_colours(kind, suffix, colours, tmp_path) -> None:
    store = BlobStore(tmp_path / "store")
    model = _wires(store, *colours)
    sent = send(model, str(tmp_path / f"out{suffix}"), kind, SendSettings(), str(tmp_path / "store"))
    assert not sent.proof.unannounced
    cells = {cell.thing: cell for cell in sent.proof.ledger.entries}
    assert cells["colours"].verdict == "carried"
    assert cells["bodies"].verdict == "carried"
    back = receive(str(tmp_path / f"out{suffix}"), str(tmp_path / "store"))
    assert [b.colour.label for _, b in back.bodies()] == [c.label for c in colours]


def test_curves_have_styles_of_curves(tmp_path) -> None:
    store = BlobStore(tmp_path / "store")
    out = tmp_path / "out.stp"
    send(_wires(store, RED), str(out), "step-ap242", SendSettings(), str(tmp_path / "store"))
    with open_records(str(out)) as records:
        (styled,) = records.of("STYLED_ITEM")
        assert records.get(styled.ref(2)).keyword == "TRIMMED_CURVE"
        assert len(list(records.of("CURVE_STYLE"))) == 1
        assert not list(records.of("SURFACE_STYLE_USAGE"))


def test_a_component_that_is_an_assembly_has_a_colour_and_is_hidden(tmp_path) -> None:
    store = BlobStore(tmp_path / "store")
    inner = small_assembly(store)
    top = Product("all", "A-1", "All", occurrences=(
        Occurrence("u1", "top", "left", shifted(0), GREEN),
        Occurrence("u2", "top", "right", shifted(0, 200), hidden=True),
        Occurrence("u3", "top", "plain", shifted(0, 400)),
    ))  # fmt: skip
    model = Model((top, *inner.products), ("all",))
    out = tmp_path / "out.stp"
    sent = send(model, str(out), "step-ap242", SendSettings(), str(tmp_path / "store"))
    assert not sent.proof.unannounced and not sent.proof.false_alarms
    back = receive(str(out), str(tmp_path / "store"))
    root = back.product(back.roots[0])
    found = {use.name: (use.colour.label if use.colour else "", use.hidden) for use in root.occurrences}
    assert found == {"left": (GREEN.label, False), "right": ("", True), "plain": ("", False)}


def test_several_revisions_of_a_product_share_its_record(tmp_path) -> None:
    store = BlobStore(tmp_path / "store")
    model = small_assembly(store)
    plate, pin = model.product("plate"), model.product("pin")
    pin = replace(pin, number=plate.number, name=plate.name, description=plate.description, revision="B")
    model = model.with_product(replace(plate, revision="A")).with_product(pin)
    out = tmp_path / "out.stp"
    sent = send(model, str(out), "step-ap242", SendSettings(), str(tmp_path / "store"))
    assert not sent.proof.unannounced
    with open_records(str(out)) as records:
        assert len(list(records.of("PRODUCT"))) == 2
        ids = sorted(r.text(0) for r in records.of("PRODUCT_DEFINITION_FORMATION"))
    assert ids == ["A", "B", "C"]
    back = receive(str(out), str(tmp_path / "store"))
    found = sorted((p.number, p.revision) for p in back.products)
    assert found == [("P-2", "A"), ("P-2", "B"), ("T-1", "C")]


def test_a_quantity_without_places_is_a_property_of_the_component(tmp_path: Path) -> None:
    store = BlobStore(tmp_path / "store")
    out = tmp_path / "out.stp"
    send(small_assembly(store), str(out), "step-ap242", SendSettings(), str(tmp_path / "store"))
    text = out.read_text("ascii").replace(",\n", ",")
    place = text.index("=NEXT_ASSEMBLY_USAGE_OCCURRENCE(") + 1
    end = text.index(";", place)
    *ends, designator = text[place:end].removeprefix("NEXT_ASSEMBLY_USAGE_OCCURRENCE(")[:-1].rsplit(",", 1)
    changed = (
        f"{text[:place]}(ASSEMBLY_COMPONENT_USAGE({designator})NEXT_ASSEMBLY_USAGE_OCCURRENCE()"
        f"PRODUCT_DEFINITION_RELATIONSHIP({ends[0]})PRODUCT_DEFINITION_USAGE()"
        f"QUANTIFIED_ASSEMBLY_COMPONENT_USAGE(#900001)){text[end:]}"
    ).replace("ENDSEC;\nEND-ISO", "#900001=MEASURE_WITH_UNIT(COUNT_MEASURE(4.),#900002);\n"
              "#900002=CONTEXT_DEPENDENT_UNIT(#900003,'each');\n"
              "#900003=DIMENSIONAL_EXPONENTS(0.,0.,0.,0.,0.,0.,0.);\nENDSEC;\nEND-ISO")  # fmt: skip
    out.write_text(changed)
    model = receive(str(out), str(tmp_path / "store"))
    (said,) = [(use.name, d.value, d.kind) for _, use in model.occurrences() for d in use.metadata
               if d.key == "quantity"]  # fmt: skip
    assert said == ("plate", 4, "integer")
    again = send(model, str(tmp_path / "b.stp"), "step-ap242", SendSettings(), str(tmp_path / "store"))
    assert not again.proof.unannounced


def test_a_mended_body_keeps_the_colours_of_edges_that_lie_where_they_lay(tmp_path) -> None:
    store = BlobStore(tmp_path / "store")
    shape = block(60, 40, 10)
    body = Body(
        "b", BodyKind.SOLID, "", store.put(shape_to_blob(shape)), edge_colours=((2, RED), (5, BLUE))
    )
    higher = block(60, 40, 12)
    same = carried_over(store, [body], body, shape)
    other = carried_over(store, [body], body, higher)
    assert dict(same.edge_colours) == dict(body.edge_colours)
    at_the_bottom = {place for place, spot in enumerate(edge_spots(shape)) if spot[2] == 0.0}
    assert {place for place, _ in body.edge_colours} & at_the_bottom != {2, 5}
    assert len(other.edge_colours) == len({2, 5} & at_the_bottom)


def test_colours_of_faces_in_one_place_are_not_those_of_all_that_stands_there(tmp_path) -> None:
    """The kernel's reader takes them for that."""
    store = BlobStore(tmp_path / "store")
    model = small_assembly(store)
    top = model.product("top")
    one, two, three = top.occurrences
    three = replace(three, own_colours=(("b-pin", 0, GREEN), ("b-pin", 1, BLUE)))
    whole = replace(one, own_colours=(("b-plate", -1, GREEN), ("b-plate", 2, BLUE)))
    model = model.with_product(replace(top, occurrences=(whole, two, three)))
    out = tmp_path / "out.stp"
    sent = send(model, str(out), "step-ap242", SendSettings(), str(tmp_path / "store"))
    assert not sent.proof.unannounced
    back = {use.name: use for _, use in receive(str(out), str(tmp_path / "store")).occurrences()}
    assert back["pin right"].colour is None
    assert [(face, c.label) for _, face, c in back["pin right"].own_colours] == [
        (0, GREEN.label), (1, BLUE.label),
    ]  # fmt: skip
    assert back["plate"].colour == GREEN
    assert [(face, c.label) for _, face, c in back["plate"].own_colours] == [(2, BLUE.label)]


@pytest.mark.parametrize("colour", [RED, None])
@pytest.mark.parametrize(
    ("kind", "suffix"),
    [("step-ap242", ".stp"), ("step-ap214", ".stp"), ("xt-text", ".x_t"), ("iges-solid", ".igs")],
)
def test_curves_that_are_hidden_come_back_hidden(kind, suffix, colour, tmp_path) -> None:
    store = BlobStore(tmp_path / "store")
    model = _wires(store, RED, BLUE)
    (product,) = model.products
    one, two = product.bodies
    model = model.with_product(replace(product, bodies=(replace(one, colour=colour, hidden=True), two)))
    out = tmp_path / f"out{suffix}"
    sent = send(model, str(out), kind, SendSettings(), str(tmp_path / "store"))
    assert not sent.proof.unannounced
    back = receive(str(out), str(tmp_path / "store"))
    assert [body.hidden for _, body in back.bodies()] == [True, False]

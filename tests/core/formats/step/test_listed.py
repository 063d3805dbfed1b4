"""What a STEP file lists is in the model or named in a note: bodies, usages, placements, triangles."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest

from gondrel.core.formats.registry import target
from gondrel.core.formats.settings import SendSettings
from gondrel.core.formats.step.write import write
from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.kernel.derive import facts_of
from gondrel.core.kernel.exchange.stock import read_as_other
from gondrel.core.kernel.modelling.build import block
from gondrel.core.model import Body, BodyKind, Model, Occurrence, Product
from gondrel.core.model.mass import totals_of
from gondrel.core.model.store import BlobStore
from gondrel.core.service.receive import receive
from gondrel.core.service.send import send
from gondrel.core.service.settings import settings_from
from tests.builders import BLUE, RED, shifted

Read = Callable[[str], Model]


@pytest.fixture
def store(store_folder: str) -> BlobStore:
    return BlobStore(Path(store_folder))


@pytest.fixture
def read(tmp_path: Path, store_folder: str) -> Read:
    def reading(text: str) -> Model:
        path = tmp_path / "made.stp"
        path.write_text(text)
        return receive(str(path), store_folder)

    return reading


def step(model: Model, store: BlobStore) -> str:
    _, chosen = target("step-ap242")
    facts = {key: facts_of(store, key) for key in model.blobs()}
    return write(model, chosen, SendSettings(), store, facts, name="made.stp").decode()


def pair(store: BlobStore) -> Model:
    """A part of 10 x 20 x 30 mm placed twice in an assembly."""
    body = Body("b", BodyKind.SOLID, "c", store.put(shape_to_blob(block(10, 20, 30))))
    uses = (Occurrence("o1", "c", "left"), Occurrence("o2", "c", "right", shifted(50)))
    return Model(
        (Product("a", "A-1", "Asm", occurrences=uses), Product("c", "C-1", "Child", bodies=(body,))), ("a",)
    )


def single(store: BlobStore) -> Model:
    body = Body("b", BodyKind.SOLID, "c", store.put(shape_to_blob(block(10, 20, 30))))
    return Model((Product("c", "C-1", "Child", bodies=(body,)),), ("c",))


def last(text: str) -> int:
    return max(int(n) for n in re.findall(r"^#(\d+)=", text, re.M))


def with_more(text: str, *records: str) -> str:
    lines = [f"#{last(text) + n}={record};" for n, record in enumerate(records, 1)]
    return text.replace("ENDSEC;\nEND-ISO", "\n".join(lines) + "\nENDSEC;\nEND-ISO")


def codes(model: Model) -> set[str]:
    return {note.code for note in model.notes}


def volume(model: Model, store: BlobStore) -> float:
    facts = {key: facts_of(store, key) for key in model.blobs()}
    return totals_of(model, facts)[model.roots[0]].volume


def definitions(text: str) -> list[str]:
    return re.findall(r"#(\d+)=PRODUCT_DEFINITION\(", text)


def test_a_usage_without_a_place_stands_beside_placed_ones(read: Read, store: BlobStore) -> None:
    text = step(pair(store), store)
    parent, child = definitions(text)
    usage = f"NEXT_ASSEMBLY_USAGE_OCCURRENCE('3','left','',#{parent},#{child},$)"
    model = read(with_more(text, usage))
    assert sum(1 for _ in model.occurrences()) == 3
    assert "occurrence-without-place" in codes(model)


def test_a_usage_with_a_quantity_is_read_and_told(read: Read, store: BlobStore) -> None:
    text = step(pair(store), store)
    parent, child = definitions(text)
    n = last(text)
    usage = (
        "(ASSEMBLY_COMPONENT_USAGE($) NEXT_ASSEMBLY_USAGE_OCCURRENCE() PRODUCT_DEFINITION_RELATIONSHIP("
        f"'3','screws','',#{parent},#{child}) PRODUCT_DEFINITION_USAGE() "
        f"QUANTIFIED_ASSEMBLY_COMPONENT_USAGE(#{n + 2}))"
    )
    model = read(
        with_more(
            text,
            usage,
            f"MEASURE_WITH_UNIT(COUNT_MEASURE(4.),#{n + 3})",
            "(NAMED_UNIT(*) CONTEXT_DEPENDENT_UNIT('each'))",
        )
    )
    assert [o.name for _, o in model.occurrences()] == ["left", "right", "screws"]
    assert any(n.code == "quantity-not-placed" and "4" in n.text for n in model.notes)


def test_a_product_without_shape_is_kept(read: Read, store: BlobStore) -> None:
    text = step(pair(store), store)
    context = re.search(r"#(\d+)=PRODUCT_CONTEXT", text)[1]
    stage = re.search(r"#(\d+)=PRODUCT_DEFINITION_CONTEXT", text)[1]
    n = last(text)
    model = read(
        with_more(
            text,
            f"PRODUCT('N-9','Grease','',(#{context}))",
            f"PRODUCT_DEFINITION_FORMATION('','',#{n + 1})",
            f"PRODUCT_DEFINITION('design','',#{n + 2},#{stage})",
        )
    )
    assert "Grease" in {p.name for p in model.products}
    assert "no-shape-given" in codes(model)


def test_products_and_usages_without_any_shape_come_once(read: Read, store: BlobStore) -> None:
    text = step(pair(store), store)
    head = text[: text.index("DATA;")]
    bare = (
        "DATA;\n#1=APPLICATION_CONTEXT('x');\n#2=PRODUCT_CONTEXT('',#1,'mechanical');\n"
        "#3=PRODUCT_DEFINITION_CONTEXT('part definition',#1,'design');\n#4=PRODUCT('A','Asm','',(#2));\n"
        "#5=PRODUCT_DEFINITION_FORMATION('','',#4);\n#6=PRODUCT_DEFINITION('','',#5,#3);\n"
        "#7=PRODUCT('B','Part','',(#2));\n#8=PRODUCT_DEFINITION_FORMATION('','',#7);\n"
        "#9=PRODUCT_DEFINITION('','',#8,#3);\n#10=NEXT_ASSEMBLY_USAGE_OCCURRENCE('1','u','',#6,#9,$);\n"
        "ENDSEC;\nEND-ISO-10303-21;\n"
    )
    model = read(head + bare)
    assert sorted(p.name for p in model.products) == ["Asm", "Part"]
    assert sum(1 for _ in model.occurrences()) == 1


def test_a_solid_that_the_kernel_passes_over_is_made_by_itself(read: Read, store: BlobStore) -> None:
    """Three solids with figures and styles of their own; one is taken out of the list."""
    bodies = tuple(
        Body(f"b{n}", BodyKind.SOLID, name, store.put(shape_to_blob(block(10, 10 * n, 10))), colour)
        for n, (name, colour) in enumerate((("one", RED), ("two", BLUE), ("three", RED)), 1)
    )
    text = step(Model((Product("p", "P-1", "Three", bodies=bodies),), ("p",)), store)
    # A shape aspect with a representation of its own for each solid, as some senders write them.
    solids = re.findall(r"#(\d+)=MANIFOLD_SOLID_BREP", text)
    shape = re.search(r"#(\d+)=PRODUCT_DEFINITION_SHAPE", text)[1]
    context = re.search(r"ADVANCED_BREP_SHAPE_REPRESENTATION\('',\([^)]*\),#(\d+)\)", text)[1]
    for solid in solids:
        n = last(text)
        text = with_more(
            text,
            f"SHAPE_ASPECT('','body',#{shape},.F.)",
            f"PROPERTY_DEFINITION('','',#{n + 1})",
            f"SHAPE_REPRESENTATION('',(#{solid}),#{context})",
            f"SHAPE_DEFINITION_REPRESENTATION(#{n + 2},#{n + 3})",
        )
    one_out = re.sub(r"(ADVANCED_BREP_SHAPE_REPRESENTATION\('',\(#\d+,)#\d+,", r"\1", text, count=1)
    model = read(one_out)
    assert {"two", "three"} <= {body.name for _, body in model.bodies()}
    colours = {b.name: b.colour.hex for _, b in model.bodies() if b.colour is not None}
    assert colours["two"] == BLUE.hex and colours["three"] == RED.hex
    assert "one" in colours or "body-not-listed" in codes(model)


@pytest.mark.parametrize(
    ("operator", "factor"),
    [("$,$,#{o},2.,$", 8.0), ("#{x},#{y},#{o},1.,#{z}", 1.0), ("$,$,#{o},0.5,$", 0.125)],
)
def test_a_scaled_or_mirrored_usage_is_read_as_it_is(
    operator: str, factor: float, read: Read, store: BlobStore, tmp_path: Path, store_folder: str
) -> None:
    text = step(pair(store), store)
    moves = re.findall(r"#(\d+)=ITEM_DEFINED_TRANSFORMATION\('','',#(\d+),#(\d+)\)", text)
    origin = re.search(rf"#{moves[1][2]}=AXIS2_PLACEMENT_3D\('',#(\d+),", text)[1]
    n = last(text)
    filled = operator.format(o=origin, x=n + 1, y=n + 2, z=n + 3)
    text = re.sub(
        rf"#{moves[1][0]}=ITEM_DEFINED_TRANSFORMATION\([^)]*\)",
        f"#{moves[1][0]}=CARTESIAN_TRANSFORMATION_OPERATOR_3D('','','',{filled})",
        text,
    )
    text = with_more(
        text, "DIRECTION('',(1.,0.,0.))", "DIRECTION('',(0.,-1.,0.))", "DIRECTION('',(0.,0.,1.))"
    )
    model = read(text)
    assert "placed-scaled" in codes(model)
    assert volume(model, store) == pytest.approx(6000.0 * (1 + factor))
    placed = np.array([o.placement for _, o in model.occurrences()][1]).reshape(4, 4)
    assert abs(np.linalg.det(placed[:3, :3])) == pytest.approx(factor)
    assert placed[0, 3] == pytest.approx(50.0)
    for kind in ("step-ap242", "xt-text", "iges-solid"):
        sent = send(
            model, str(tmp_path / f"out.{kind}"), kind, settings_from({"force": "yes"}), store_folder
        )
        assert not sent.proof.unannounced and not sent.proof.false_alarms
        assert volume(sent.returned, store) == pytest.approx(6000.0 * (1 + factor), rel=1e-9)
        assert not [line for line in sent.proof.other if "otherwise" in line.verdict]


def test_a_scaled_mapped_item_is_a_body_of_that_shape(read: Read, store: BlobStore) -> None:
    text = step(single(store), store)
    found = re.search(r"#(\d+)=ADVANCED_BREP_SHAPE_REPRESENTATION\('',\((#\d+),(#\d+)\),(#\d+)\)", text)
    number, origin, solid, context = found.groups()
    n = last(text)
    text = text.replace(
        found[0], f"#{number}=SHAPE_REPRESENTATION('',({origin},#{n + 3},#{n + 4}),{context})"
    )
    model = read(
        with_more(
            text,
            f"ADVANCED_BREP_SHAPE_REPRESENTATION('',({origin},{solid}),{context})",
            f"REPRESENTATION_MAP({origin},#{n + 1})",
            f"MAPPED_ITEM('',#{n + 2},{origin})",
            f"MAPPED_ITEM('',#{n + 2},#{n + 5})",
            f"CARTESIAN_TRANSFORMATION_OPERATOR_3D('','','',$,$,#{n + 6},2.,$)",
            "CARTESIAN_POINT('',(100.,0.,0.))",
        )
    )
    assert volume(model, store) == pytest.approx(54000.0)


@pytest.mark.parametrize(
    "records",
    [
        ("TRIANGULATED_SURFACE_SET('tet',#{c},4,(),(),((1,3,2),(1,2,4),(2,3,4),(1,4,3)))",),
        (
            "COMPLEX_TRIANGULATED_FACE('f',#{c},4,(),$,(),((1,3,2,4)),((4,1,2)))",
            "TESSELLATED_SOLID('tet',(#{f}),$)",
        ),
    ],
)
def test_triangles_are_a_mesh_and_nothing_is_invented(
    records: tuple[str, ...], read: Read, store: BlobStore
) -> None:
    text = step(single(store), store)
    found = re.search(r"#(\d+)=ADVANCED_BREP_SHAPE_REPRESENTATION\('',\((#\d+),(#\d+)\),(#\d+)\)", text)
    n = last(text)
    text = text.replace(
        found[0], f"#{found[1]}=TESSELLATED_SHAPE_REPRESENTATION('',(#{n + 1 + len(records)}),{found[4]})"
    )
    listed = "COORDINATES_LIST('',4,((0.,0.,0.),(10.,0.,0.),(0.,10.,0.),(0.,0.,10.)))"
    model = read(with_more(text, listed, *(r.format(c=n + 1, f=n + 2) for r in records)))
    meshes = [b for _, b in model.bodies() if b.kind is BodyKind.MESH]
    assert [b.name for b in meshes] == ["tet"]
    facts = facts_of(store, meshes[0].blob)
    assert facts.faces and max(facts.bbox) == pytest.approx(10.0)
    assert all(b.kind is not BodyKind.SHEET for _, b in model.bodies())


def test_a_part_of_many_bodies_stays_one_part_for_others(
    store: BlobStore, tmp_path: Path, store_folder: str
) -> None:
    bodies = tuple(
        Body(
            f"b{n}",
            BodyKind.SOLID,
            f"body {n}",
            store.put(shape_to_blob(block(10, 10, 10, at=(20 * n, 0, 0)))),
        )
        for n in range(3)
    )
    model = Model((Product("p", "P-1", "Three", bodies=bodies),), ("p",))
    for kind in ("step-ap242", "step-ap214", "step-ap203"):
        sent = send(model, str(tmp_path / "out.stp"), kind, settings_from({"force": "yes"}), store_folder)
        seen = read_as_other(sent.path, "step")
        assert [(p.name, dict(p.kinds)) for p in seen.products] == [("Three", {"solid": 3})]

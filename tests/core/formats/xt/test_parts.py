"""Parts, instances and what is said of them: written and read again."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest

from gondrel.core.errors import CannotExpress, MalformedFile
from gondrel.core.formats.registry import by_content, target
from gondrel.core.formats.settings import SendSettings
from gondrel.core.formats.xt import attributes as named
from gondrel.core.formats.xt.appearance import colour_of
from gondrel.core.formats.xt.attributes import AttributeReader, AttributeWriter
from gondrel.core.formats.xt.document import open_document, read_card
from gondrel.core.formats.xt.nodes import Document
from gondrel.core.formats.xt.read import read
from gondrel.core.formats.xt.text import write_text
from gondrel.core.formats.xt.write import write
from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.kernel.modelling import build
from gondrel.core.model.body import Body, BodyKind, Rgba
from gondrel.core.model.product import Material, Metadatum, Occurrence, Product
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from tests import builders
from tests.core.formats.xt import referee
from tests.core.formats.xt.edited import add, of, set_values
from tests.core.formats.xt.shapes import document_of

TURNED = (0.0, -1.0, 0.0, 12.5, 1.0, 0.0, 0.0, -3.0, 0.0, 0.0, 1.0, 7.0, 0.0, 0.0, 0.0, 1.0)
CLEAR = Rgba(0.2, 0.4, 0.6, 0.25)
RED = Rgba(1.0, 0.0, 0.0)


@pytest.fixture
def store(tmp_path: Path) -> BlobStore:
    return BlobStore(tmp_path / "store")


def body(store: BlobStore, key: str, shape, **more) -> Body:
    return Body(key, BodyKind.SOLID, more.pop("name", ""), store.put(shape_to_blob(shape)), **more)


def rich(store: BlobStore) -> Model:
    """Two roots, a shared part, an assembly with bodies of its own, and everything that can be said."""
    pin = Product(
        "pin", "P-1", "Pin Ø8 µ", "C", "a pin, ground; 50 % \u2126 steel",
        Material("C45", 7850.0, "rolled"),
        (Metadatum("Hardness", 48), Metadatum("Length mm", 30.5), Metadatum("Coated", True),
         Metadatum("Coated", "twice"), Metadatum("Norm", "\u4e2d")),
        (body(store, "b1", build.cylinder(4, 30), name="pin body", colour=CLEAR,
              face_colours=((1, RED), (2, CLEAR)), layers=("12", "Turned")),),
    )  # fmt: skip
    plain = Product("plain", "", "Plain", bodies=(body(store, "b2", build.block(5, 5, 5)),))
    whole = Product(
        "whole", "A-1", "Whole", "", material=Material("Glue"),
        bodies=(body(store, "b3", build.sphere(3), name="bead", colour=RED),
                body(store, "b4", build.cone(4, 1, 6), name="", layers=("0",))),
        occurrences=(
            Occurrence("o1", "pin", "left pin", TURNED, colour=RED,
                       metadata=(Metadatum("Torque Nm", 12.0),)),
            Occurrence("o2", "pin", "right pin"),
            Occurrence("o3", "empty", ""),
        ),
    )  # fmt: skip
    empty = Product("empty", "E-1", "Empty")
    return Model((whole, pin, plain, empty), ("whole", "plain"))


def written(model: Model, store: BlobStore, kind: str = "xt-text") -> bytes:
    _, chosen = target(kind)
    settings = SendSettings(author="An Author", organisation="Works", system="Gondrel")
    return write(model, chosen, settings, store, {}, name="model.x_t")


def back(data: bytes, tmp_path: Path, store: BlobStore) -> Model:
    path = tmp_path / "back.x_t"
    path.write_bytes(data)
    return read(str(path), store)


@pytest.mark.parametrize("kind", ["xt-text", "xt-binary"])
def test_everything_that_is_said_comes_back(kind: str, tmp_path: Path, store: BlobStore) -> None:
    model = rich(store)
    data = written(model, store, kind)
    returned = back(data, tmp_path, store)
    ours = {p.name: p for p in model.products}
    theirs = {p.name: p for p in returned.products}
    assert theirs.keys() == ours.keys()
    for name, product in ours.items():
        other = theirs[name]
        for field in ("number", "revision", "description", "material", "metadata"):
            assert getattr(other, field) == getattr(product, field), (name, field)
        assert [b.name for b in other.bodies] == [b.name for b in product.bodies]
        assert [b.colour for b in other.bodies] == [b.colour for b in product.bodies]
        assert [b.layers for b in other.bodies] == [b.layers for b in product.bodies]
        assert [b.face_colours for b in other.bodies] == [b.face_colours for b in product.bodies]
        for use, after in zip(product.occurrences, other.occurrences, strict=True):
            assert after.name == use.name and after.colour == use.colour and after.metadata == use.metadata
            assert after.placement == pytest.approx(use.placement, abs=1e-12)
            assert returned.product(after.product).name == model.product(use.product).name
    assert [returned.product(r).name for r in returned.roots] == ["Whole", "Plain"]
    assert not returned.notes
    found = referee.judge(data)
    assert found.complete and found.brep.topology.valid


def test_the_card_tells_who_wrote_it_and_counts_products_not_bodies(tmp_path, store) -> None:
    path = tmp_path / "a.x_t"
    path.write_bytes(written(rich(store), store))
    assert by_content(str(path)).key == "parasolid"
    card = read_card(str(path))
    assert card.written_by.system == "Gondrel" and card.written_by.author == "An Author"
    assert card.length_unit == "m" and card.mm_per_unit == 1000.0 and card.variant == "text"
    assert card.label == "Parasolid XT 13006"
    counted = [card.count(thing) for thing in ("products", "occurrences", "solids")]
    assert counted == [4, 3, 4]


def test_attributes_of_others_become_metadata_and_their_colours_colours(tmp_path, store) -> None:
    document = document_of(build.block(4, 4, 4))
    values = add(document, "REAL_VALUES", values=[0.5, 0.25, 1.0])
    name = add(document, "CHAR_VALUES", values="Bracket")
    note = add(document, "CHAR_VALUES", values="weld here")
    for identifier, owner, held in (
        (named.COLOUR, document.root.index, values),
        (named.NAME, document.root.index, name),
        ("WORKS/WELD", document.root.index, note),
        (named.COLOUR, of(document, "FACE")[2].index, values),
    ):
        text = add(document, "ATT_DEF_ID", string=identifier)
        definition = add(document, "ATTRIB_DEF", identifier=text, fields=[2], legal_owners=["T"] * 14)
        first = document.nodes[owner]["attributes_groups"]
        index = add(document, "ATTRIBUTE", definition=definition, owner=owner, fields=[held], next=first)
        if first:
            set_values(document.nodes[first], previous=index)
        set_values(document.nodes[owner], attributes_groups=index)
    model = back(write_text(document), tmp_path, store)
    (product,) = model.products
    assert product.name == "Bracket" and product.metadata == (Metadatum("WORKS/WELD", "weld here"),)
    assert product.bodies[0].colour == Rgba(0.5, 0.25, 1.0)
    assert product.bodies[0].face_colours == (), "a face in the colour of its body has none of its own"


def test_nodes_of_which_nothing_is_made_are_counted(tmp_path, store) -> None:
    document = document_of(build.block(4, 4, 4))
    add(document, "FEATURE", type=1)
    add(document, "KEY", string="k")
    (note,) = back(write_text(document), tmp_path, store).notes
    assert note.code == "nodes-not-taken-over" and "1 FEATURE, 1 KEY" in note.text


def test_a_body_that_can_not_be_made_is_told_and_the_rest_is_there(tmp_path, store) -> None:
    data = written(rich(store), store)
    returned = back(data, tmp_path, store)
    assert len(list(returned.bodies())) == 4
    document = document_of(build.sphere(5))
    set_values(of(document, "SPHERE")[0], radius=0.0)
    with pytest.raises(MalformedFile, match="no body of it could be made: a sphere has the radius 0 mm"):
        back(write_text(document), tmp_path, store)


def test_an_assembly_in_itself_is_refused(tmp_path, store) -> None:
    model = rich(store)
    whole = model.product("whole")
    loop = replace(whole, occurrences=(*whole.occurrences, Occurrence("o9", "whole", "itself")))
    with pytest.raises(CannotExpress, match="contains itself"):
        written(replace(model, products=(loop, *model.products[1:])), store)


def test_a_body_outside_the_size_box_is_refused_with_the_reason(store) -> None:
    far = body(store, "far", build.moved(build.block(10, 10, 10), by=(600_000.0, 0, 0)))
    model = Model((Product("p", "", "Far away", bodies=(far,)),), ("p",))
    with pytest.raises(CannotExpress, match="600 m from the origin"):
        written(model, store)


def test_definitions_stand_once_however_many_attributes_there_are() -> None:
    from gondrel.core.formats.xt.builder import NodeBuilder

    make = NodeBuilder()
    writer = AttributeWriter(make)
    for _ in range(3):
        writer.add(make.new("FACE"), named.COLOUR, [1.0, 0.0, 0.0])
    kinds = [make.kind(i) for i in range(1, len(make) + 1)]
    assert kinds.count("ATTRIB_DEF") == 1 and kinds.count("ATTRIBUTE") == 3
    assert isinstance(make.document(document_of(build.sphere(1)).header), Document)


def test_an_edge_below_the_resolution_is_refused_with_the_place(store) -> None:
    thin = body(store, "thin", build.block(10, 10, 5e-6))
    model = Model((Product("p", "", "Foil", bodies=(thin,)),), ("p",))
    with pytest.raises(CannotExpress, match="5e-06 mm long"):
        written(model, store)


@pytest.mark.parametrize("kind", ["xt-text", "xt-binary"])
def test_a_file_without_header_lines_is_known_by_its_content(kind: str, tmp_path, store) -> None:
    data = written(rich(store), store, kind)
    at = data.index(b"\n", data.index(b"**END_OF_HEADER")) + 1
    path = tmp_path / "bare.bin"
    path.write_bytes(data[at:])
    assert by_content(str(path)).key == "parasolid"
    model = read(str(path), store)
    assert len(list(model.bodies())) == 4 and model.provenance.file.written_by.system == ""


def test_colours_of_edges_hang_on_edges(tmp_path) -> None:
    """The standard colour attribute, on the nodes of the edges themselves."""
    path = tmp_path / "a.x_t"
    path.write_bytes(builders.written("xt-text", tmp_path / "made", builders.rich_assembly))
    document = open_document(str(path))
    reader = AttributeReader(document)
    edges = [node for node in document.nodes.values() if node.kind == "EDGE"]
    shown = [colour.hex for node in edges if (colour := colour_of(reader.of(node))) is not None]
    assert sorted(shown) == sorted((builders.BLUE.hex, builders.RED.hex))

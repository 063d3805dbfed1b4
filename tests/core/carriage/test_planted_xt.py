"""Changes planted in the nodes of an XT file: each is told in its cell, and the unchanged file has none."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import pytest

from gondrel.core.formats.xt import attributes as named
from gondrel.core.formats.xt.attributes import AttributeReader
from gondrel.core.formats.xt.document import open_document
from gondrel.core.formats.xt.nodes import Document, Node
from gondrel.core.formats.xt.text import write_text
from tests.core.carriage.planted import Original, original

pytestmark = pytest.mark.slow

Edit = Callable[[Document], None]


def put(document: Document, node: Node, **values: Any) -> None:
    """Give a node other values."""
    held = list(node.values())
    for name, value in values.items():
        held[[f.name for f in node.type.fields].index(name)] = value
    document.nodes[node.index] = Node(node.type, node.index, held, user=node.user)


def attributes(document: Document, identifier: str, owner: str = "", holds: str = "") -> list[Node]:
    """The attributes of a definition, on nodes of a kind, with a text among their values."""
    reader = AttributeReader(document)
    found = []
    for node in document.nodes.values():
        if node.kind != "ATTRIBUTE" or reader.identifier(node) != identifier:
            continue
        owned = document.at(node["owner"])
        values = [document.at(i) for i in node["fields"] if i]
        texts = ["".join(map(chr, v["values"])) if v.kind == "UNICODE_VALUES" else str(v["values"])
                 for v in values if v is not None]  # fmt: skip
        is_of = not owner or (owned is not None and owned.kind == owner)
        if is_of and (not holds or any(holds in text for text in texts)):
            found.append(node)
    assert found, (identifier, owner, holds)
    return found


def say(identifier: str, values: Any, *, field: int = 0, owner: str = "", holds: str = "") -> Edit:
    """Put other values into a field of the first attribute of a definition."""

    def edit(document: Document) -> None:
        node = attributes(document, identifier, owner, holds)[0]
        held = document.nodes[node["fields"][field]]
        plain = [ord(c) for c in values] if held.kind == "UNICODE_VALUES" else values
        put(document, held, values=plain)

    return edit


def text_in(identifier: str, old: str, new: str, *, owner: str = "") -> Edit:
    """Put one text in the place of another in a field of an attribute."""

    def edit(document: Document) -> None:
        for node in attributes(document, identifier, owner, old):
            for index in node["fields"]:
                held = document.at(index)
                if held is None or held.kind != "UNICODE_VALUES":
                    continue
                text = "".join(map(chr, held["values"]))
                if old in text:
                    put(document, held, values=[ord(c) for c in text.replace(old, new)])
                    return
        raise AssertionError(old)

    return edit


def drop(identifier: str, *, owner: str = "", holds: str = "") -> Edit:
    """Take the first attribute of a definition out of the chain of its owner."""

    def edit(document: Document) -> None:
        node = attributes(document, identifier, owner, holds)[0]
        before, after = document.at(node["previous"]), document.at(node["next"])
        if before is not None and before["owner"] == node["owner"]:
            put(document, before, next=node["next"])
        else:
            put(document, document.nodes[node["owner"]], attributes_groups=node["next"])
        if after is not None:
            put(document, after, previous=node["previous"])
        # what lists attributes by their kind would lead to it still
        put(document, node, owner=0)

    return edit


def swapped_faces(document: Document) -> None:
    """Two faces of the plate change their colours."""
    coloured = attributes(document, named.COLOUR, "FACE")
    one = coloured[0]
    first = document.nodes[one["fields"][0]]["values"]
    shell = document.nodes[one["owner"]]["shell"] or document.nodes[one["owner"]]["front_shell"]
    for other in coloured[1:]:
        face = document.nodes[other["owner"]]
        held = document.nodes[other["fields"][0]]
        if (face["shell"] or face["front_shell"]) == shell and held["values"] != first:
            put(document, document.nodes[one["fields"][0]], values=held["values"])
            put(document, held, values=first)
            return
    raise AssertionError("all faces have one colour")


def moved(document: Document) -> None:
    """An instance a little further along x."""
    transform = next(n for n in document.nodes.values() if n.kind == "TRANSFORM")
    x, y, z = transform["translation_vector"]
    put(document, transform, translation_vector=(x + 1e-6, y, z))


def wider(document: Document) -> None:
    """A cylinder of another radius."""
    cylinder = next(n for n in document.nodes.values() if n.kind == "CYLINDER")
    put(document, cylinder, radius=cylinder["radius"] * 1.05)


CHANGES: tuple[tuple[str, Edit, str, str], ...] = (
    ("name others see", say(named.NAME, "Plates", owner="BODY", holds="Plate"), "names", "altered"),
    ("name others see of the whole", say(named.NAME, "Topp", owner="ASSEMBLY"), "names", "altered"),
    ("name others see is gone", drop(named.NAME, owner="BODY", holds="Plate"), "names", "lost"),
    ("name of a component", say(named.NAME, "pin", owner="INSTANCE", holds="pin left"), "names", "altered"),
    ("name of a component is gone", drop(named.NAME, owner="INSTANCE", holds="pin left"), "names", "lost"),
    ("name of a body", text_in(named.BODY, "Platte", "Blech"), "names", "altered"),
    ("number", text_in(named.IDENTITY, "P-2", "P-3"), "numbers", "altered"),
    ("revision", text_in(named.IDENTITY, "A", "B", owner="BODY"), "revisions", "altered"),
    ("description", text_in(named.IDENTITY, "turned", "milled"), "metadata", "altered"),
    ("identity is gone", drop(named.IDENTITY, holds="P-2"), "numbers", "lost"),
    ("metadata value", text_in(named.DATUM, "7", "8"), "metadata", "altered"),
    ("metadata key", text_in(named.DATUM, "Count", "Number"), "metadata", "lost"),
    ("metadata is gone", drop(named.DATUM, holds="Weight"), "metadata", "lost"),
    ("metadata of a component", text_in(named.DATUM, "12", "13", owner="INSTANCE"), "metadata", "altered"),
    ("material", text_in(named.MATERIAL, "Bronze", "Brass"), "materials", "altered"),
    ("description of a material", text_in(named.MATERIAL, "plain", "killed"), "materials", "altered"),
    ("density others see", say(named.DENSITY, [7800.0]), "materials", "altered"),
    ("density others see is gone", drop(named.DENSITY), "materials", "altered"),
    ("material is gone", drop(named.MATERIAL, holds="Bronze"), "materials", "lost"),
    ("colour of a body", say(named.COLOUR, [0.5, 0.5, 0.0], owner="BODY"), "colours", "altered"),
    ("colour of a component", say(named.COLOUR, [0.5, 0.5, 0.0], owner="INSTANCE"), "colours", "altered"),
    ("colour of a component is gone", drop(named.COLOUR, owner="INSTANCE"), "colours", "lost"),
    ("colour of a face", say(named.COLOUR, [0.5, 0.5, 0.0], owner="FACE"), "colours", "altered"),
    ("face colours change places", swapped_faces, "colours", "altered"),
    ("transparency", say(named.TRANSPARENCY, [0.25], owner="FACE"), "colours", "altered"),
    ("transparency is gone", drop(named.TRANSPARENCY, owner="FACE"), "colours", "altered"),
    ("layer name", text_in(named.LAYER_NAME, "A", "AA", owner="BODY"), "layers", "altered"),
    ("layer number others see", say(named.LAYER, [77], owner="BODY"), "layers", "altered"),
    ("layer of a face", text_in(named.LAYER_NAME, "F", "G", owner="FACE"), "layers", "altered"),
    ("name of a face", say(named.NAME, "hole", owner="FACE", holds="bore"), "names", "altered"),
    ("name of a face is gone", drop(named.NAME, owner="FACE", holds="bore"), "names", "altered"),
    ("property of a face", text_in(named.MORE, "58", "59", owner="FACE"), "metadata", "altered"),
    ("alias", text_in(named.MORE, "OLD-1", "OLD-3"), "numbers", "altered"),
    ("unit of a value", text_in(named.MORE, '"kN"', '"N"'), "metadata", "altered"),
    ("hidden body shown", text_in(named.BODY_MORE, "true", "false"), "layers", "lost"),
    ("hidden layer", text_in(named.MODEL_MORE, "first", "second"), "layers", "altered"),
    ("coordinate system", text_in(named.MORE, '"CS"', '"CT"'), "geometry", "lost"),
    ("place", moved, "placement", "altered"),
    ("radius", wider, "geometry", "altered"),
)  # fmt: skip


@pytest.fixture(scope="module")
def sent(tmp_path_factory) -> Original:
    return original("xt-text", ".x_t", tmp_path_factory.mktemp("planted"))


def test_the_unchanged_file_has_nothing(sent) -> None:
    proof = sent.proof(sent.data)
    assert proof.verdict == "carried"
    assert not [c for e in proof.ledger.entries for c in e.items if c.verdict != "carried"]


def test_there_are_enough_of_them() -> None:
    assert len({name for name, *_ in CHANGES}) >= 30


@pytest.mark.parametrize(("name", "edit", "thing", "verdict"), CHANGES, ids=[c[0] for c in CHANGES])
def test_a_change_is_told_in_its_cell(name, edit, thing, verdict, sent) -> None:
    document = open_document(str(sent.folder / "original.x_t"))
    document = replace(document, nodes=dict(document.nodes))
    edit(document)
    sent.tells(write_text(document), thing, verdict)

"""Every node of an XT file is accounted for."""

from __future__ import annotations

from pathlib import Path

import pytest

from gondrel.core.formats.xt import attributes as named
from gondrel.core.formats.xt.document import open_document
from gondrel.core.formats.xt.nodes import Document
from gondrel.core.formats.xt.read import read
from gondrel.core.formats.xt.text import write_text
from gondrel.core.model.census import Census
from gondrel.core.model.store import BlobStore
from tests.builders import written
from tests.core.formats.xt.edited import add, of, set_values

pytestmark = pytest.mark.slow


@pytest.fixture
def plain(tmp_path: Path, store_folder: str) -> Document:
    """An assembly as we write it."""
    path = tmp_path / "plain.x_t"
    path.write_bytes(written("xt-text", Path(store_folder)))
    return open_document(str(path))


def census(document: Document, tmp_path: Path) -> Census:
    path = tmp_path / "in.x_t"
    path.write_bytes(write_text(document))
    model = read(str(path), BlobStore(tmp_path / "other"))
    assert model.provenance is not None and model.provenance.census is not None
    found = model.provenance.census
    assert found.carried + found.serving + found.remainder == found.all == len(document.nodes)
    return found


def told(found: Census) -> dict[tuple[str, str], int]:
    return {(each.kind, each.type): each.count for each in found.rest}


def hang(document: Document, owner: int, identifier: str, text: str) -> None:
    """Hang an attribute with one text before those a node has."""
    definition = add(
        document, "ATTRIB_DEF", identifier=add(document, "ATT_DEF_ID", string=identifier), type_id=9900,
        legal_owners=["T"] * 14, fields=[3],
    )  # fmt: skip
    values = add(document, "CHAR_VALUES", values=text)
    node = document.nodes[owner]
    first = node["attributes_groups"]
    index = add(
        document, "ATTRIBUTE", definition=definition, owner=owner, fields=[values], next=first,
    )  # fmt: skip
    set_values(node, attributes_groups=index)
    if first:
        set_values(document.nodes[first], previous=index)


def test_a_file_of_ours_leaves_nothing(plain, tmp_path) -> None:
    assert told(census(plain, tmp_path)) == {}


@pytest.mark.parametrize(
    ("kind", "identifier", "remains"),
    [
        ("FACE", named.NAME, ""),
        ("FACE", "SOMEBODY/FINISH", ""),
        ("FACE", named.DENSITY, "attributes of faces"),
        ("EDGE", "SOMEBODY/WELD", "attributes of edges"),
        ("ASSEMBLY", named.LAYER_NAME, "attributes of assemblies"),
        ("INSTANCE", named.MATERIAL, "attributes of components"),
        ("BODY", "SOMEBODY/GRADE", ""),
        ("INSTANCE", named.NAME, ""),
    ],
)
def test_an_attribute_is_read_or_remains_with_its_owner(kind, identifier, remains, plain, tmp_path) -> None:
    """An attribute of a body or face by a definition of others becomes metadata; one of an edge has no
    place."""
    before = census(plain, tmp_path)
    hang(plain, of(plain, kind)[0].index, identifier, "text")
    after = census(plain, tmp_path)
    assert after.all == before.all + 4
    wanted = {(remains, identifier): 1, (remains, "CHAR_VALUES"): 1} if remains else {}
    assert told(after) == wanted
    assert after.carried == before.carried + (not remains)


def test_construction_geometry_and_groups_remain(plain, tmp_path) -> None:
    part = of(plain, "BODY")[0]
    point = add(plain, "POINT", owner=part.index, pvec=(0.0, 0.0, 0.1), next=part["point"])
    set_values(part, point=point)
    found = told(census(plain, tmp_path))
    assert found == {("construction geometry", "POINT"): 1}

"""An assembly of which the kernel gets the parts alone against the same given to it whole."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from gondrel.core.formats.step import parts_alone, transfer
from gondrel.core.formats.step.graph import read_graph
from gondrel.core.formats.step.links import links_of
from gondrel.core.formats.step.listed import Shapes
from gondrel.core.formats.step.records import open_records
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.service.receive import receive
from gondrel.core.service.send import send
from gondrel.core.service.settings import settings_from
from tests.builders import small_assembly


def told(model: Model) -> dict[str, Any]:
    """All of a model but its ids, products by their labels."""
    assert model.provenance is not None
    products = sorted(
        (
            p.label, p.revision, p.description, p.material, p.metadata, p.validation, p.particulars,
            tuple(
                (b.kind, b.name, b.blob, b.colour, b.face_colours, b.layers, b.witness) for b in p.bodies
            ),
            tuple(
                (model.product(o.product).label, o.name, o.colour, o.metadata, o.particulars)
                for o in p.occurrences
            ),
        )
        for p in model.products
    )  # fmt: skip
    return {
        "products": products,
        "roots": [model.product(root).label for root in model.roots],
        "notes": sorted((n.code, n.text, n.where) for n in model.notes),
        "census": model.provenance.census,
        "units": model.units,
    }


def read_both(path: str, folder: str, monkeypatch: pytest.MonkeyPatch) -> tuple[Model, Model, int]:
    """The model by the parts alone and whole, and how often a file of parts was written."""
    written = []
    write = parts_alone.write_parts

    def counted(records, links, target):  # type: ignore[no-untyped-def]
        written.append(write(records, links, target))
        return written[-1]

    monkeypatch.setattr(transfer, "write_parts", counted)
    monkeypatch.setattr(transfer, "has_many_usages", lambda _: True)
    apart = receive(path, folder)
    count = sum(each is not None for each in written)
    monkeypatch.setattr(transfer, "has_many_usages", lambda _: False)
    return apart, receive(path, folder), count


def without_looks_in_place(model: Model) -> Model:
    """The model without colours that a component has in one place alone."""
    products = tuple(
        replace(p, occurrences=tuple(replace(o, colour=None) for o in p.occurrences))
        for p in model.products
    )
    return replace(model, products=products)


@pytest.fixture(params=["as1", "demo", "inch"])
def path(request, as1: str, demo_file: str, tmp_path: Path, store_folder: str) -> str:  # type: ignore[no-untyped-def]
    if request.param == "as1":
        return as1
    out, store = str(tmp_path / "plain.stp"), BlobStore(Path(store_folder))
    model = small_assembly(store) if request.param == "inch" else receive(demo_file, store_folder)
    settings = settings_from({"unit": "inch"} if request.param == "inch" else {})
    send(without_looks_in_place(model), out, "step-ap214", settings, store_folder)
    return out


@pytest.mark.slow
def test_all_is_as_when_the_kernel_gets_the_whole(
    path: str, store_folder: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    apart, whole, count = read_both(path, store_folder, monkeypatch)
    assert count == 1
    assert told(apart) == told(whole)
    ours = np.array([np.ravel(p.placement) for p in apart.walk()])
    theirs = np.array([np.ravel(p.placement) for p in whole.walk()])
    assert np.abs(ours - theirs).max() < 1e-6


def test_the_parts_have_no_usage_and_know_where_they_come_from(as1: str, tmp_path: Path) -> None:
    with open_records(as1) as records:
        made = parts_alone.write_parts(records, links_of(records), tmp_path / "parts.stp")
        assert made is not None
        with open_records(made.path) as parts:
            assert parts.count("NEXT_ASSEMBLY_USAGE_OCCURRENCE", "ITEM_DEFINED_TRANSFORMATION") == 0
            assert len(parts) == len(made.ordinals) < len(records)
            assert parts.count("MANIFOLD_SOLID_BREP") == records.count("MANIFOLD_SOLID_BREP")
            for place, ordinal in enumerate(made.ordinals.tolist(), 1):
                assert parts.at(place).number == records.at(ordinal).number
            assert parts.dangling() == []


CHANGES = {
    "a quantity": ("NEXT_ASSEMBLY_USAGE_OCCURRENCE", "PROMISSORY_USAGE_OCCURRENCE"),
    "no placement": ("CONTEXT_DEPENDENT_SHAPE_REPRESENTATION", "CONTEXT_DEPENDENT_THING"),
    "a look in one place": ("PRODUCT_RELATED_PRODUCT_CATEGORY", "PRESENTATION_STYLE_BY_CONTEXT"),
}


@pytest.mark.parametrize("change", CHANGES.values(), ids=CHANGES)
def test_what_is_not_put_together_plainly_is_given_whole(
    as1: str, tmp_path: Path, change: tuple[str, str]
) -> None:
    data = Path(as1).read_text("latin-1")
    assert change[0] in data
    (tmp_path / "other.stp").write_text(data.replace(*change, 1), "latin-1")
    with open_records(str(tmp_path / "other.stp")) as records:
        graph = read_graph(records)
        assert not parts_alone.is_plain(records, graph, Shapes(records, graph).placements())
    with open_records(as1) as records:
        graph = read_graph(records)
        assert parts_alone.is_plain(records, graph, Shapes(records, graph).placements())


def test_what_else_is_said_of_a_usage_makes_it_no_file_of_parts(as1: str, tmp_path: Path) -> None:
    data = Path(as1).read_text("latin-1")
    number = data.index("NEXT_ASSEMBLY_USAGE_OCCURRENCE")
    usage = data[data.rindex("#", 0, number) + 1 : data.rindex("=", 0, number)].strip()
    refs = f"#{usage},#{usage},$,#{usage},#{usage}"
    more = f"#999999=SPECIFIED_HIGHER_USAGE_OCCURRENCE('','','',{refs});\nENDSEC;"
    at = data.rindex("ENDSEC;")
    (tmp_path / "other.stp").write_text(data[:at] + more + data[at + 7 :], "latin-1")
    with open_records(str(tmp_path / "other.stp")) as records:
        assert parts_alone.write_parts(records, links_of(records), tmp_path / "parts.stp") is None


def test_many_usages_are_many_to_a_product(as1: str, tmp_path: Path) -> None:
    assert not parts_alone.has_many_usages(as1)
    many = "NEXT_ASSEMBLY_USAGE_OCCURRENCE\n" * parts_alone.FROM_USAGES
    few = "PRODUCT_DEFINITION_FORMATION\n" * (parts_alone.FROM_USAGES // parts_alone.TO_A_PRODUCT)
    for name, text, expected in (("a", many + few, True), ("b", many + 2 * few, False)):
        (tmp_path / name).write_text(text)
        assert parts_alone.has_many_usages(str(tmp_path / name)) is expected

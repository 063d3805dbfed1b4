"""The table of facts: figures, cells changed, files there and back."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest

from gondrel.core.arrange.table import (
    apply_cells,
    cells_from,
    columns_of,
    known_materials,
    read_table,
    table_of,
    write_table,
)
from gondrel.core.errors import GondrelError, UsageError
from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.kernel.derive import facts_of
from gondrel.core.kernel.modelling import build
from gondrel.core.model import Body, BodyFacts, BodyKind, Model, Occurrence, Product
from gondrel.core.model.metadata import Metadatum
from gondrel.core.model.product import Material
from gondrel.core.model.store import BlobStore

STEEL = Material("Steel C45", 7850.0)


@pytest.fixture
def given(tmp_path: Path) -> tuple[Model, dict[str, BodyFacts]]:
    store = BlobStore(tmp_path / "bodies")
    blob = store.put(shape_to_blob(build.block(10, 20, 30)))
    cube = Product(
        "c", "N-1", "Block", material=STEEL, bodies=(Body("b", BodyKind.SOLID, "", blob),),
        metadata=(Metadatum("Torque", 79.0, "", "N.m"), Metadatum("Count", 3)),
    )  # fmt: skip
    far = (1, 0, 0, 100, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1)
    top = Product("t", "N-0", "Top", occurrences=(Occurrence("1", "c", ""), Occurrence("2", "c", "", far)))
    return Model((top, cube), ("t",)), {blob: facts_of(store, blob)}


def cell(model: Model, facts: dict[str, BodyFacts], product: str, key: str) -> str:
    table = table_of(model, facts)
    return table.rows[table.ids.index(product)][[c.key for c in table.columns].index(key)]


def test_mass_and_centre_come_from_the_density(given) -> None:
    model, facts = given
    assert [c.heading for c in columns_of(model)][-2:] == ["Torque [N.m]", "Count"]
    assert float(cell(model, facts, "c", "mass")) == pytest.approx(6000 * 7850e-9)
    assert float(cell(model, facts, "t", "mass")) == pytest.approx(2 * 6000 * 7850e-9)
    assert [float(v) for v in cell(model, facts, "t", "centre").split(",")] == pytest.approx([55, 10, 15])
    bare = model.with_product(replace(model.product("c"), material=None))
    assert cell(bare, facts, "t", "mass") == "" and cell(model, {}, "c", "mass") == "", "nobody measured it"


def test_cells_change_by_their_kind(given) -> None:
    model, _ = given
    what, changed = apply_cells(
        model, {("c", "property:Count"): "7", ("c", "property:Torque"): "80", ("c", "colour"): "#ff0000",
                ("c", "material"): "POM-C", ("t", "revision"): " B ", ("c", "property:Note"): "dry"},
    )  # fmt: skip
    assert what == "Set facts of 2 items"
    data = {m.key: m for m in changed.product("c").metadata}
    assert data["Count"].value == 7 and data["Note"].value == "dry"
    assert (data["Torque"].value, data["Torque"].unit) == (80.0, "N.m")
    assert changed.product("c").material == Material("POM-C", known_materials()["POM-C"])
    assert changed.product("t").revision == "B" and changed.product("c").bodies[0].colour is not None
    for cells, why in (
        ({("c", "property:Count"): "many"}, "Block: .*not a whole number"),
        ({("c", "colour"): "red"}, "Block: a colour must be"),
        ({("c", "mass"): "3"}, "measured, not said"),
        ({("c", "name"): "Block"}, "nothing is changed"),
    ):
        with pytest.raises(UsageError, match=why):
            apply_cells(model, cells)


@pytest.mark.parametrize("suffix", [".csv", ".xlsx"])
def test_a_file_comes_back_as_it_was_and_changes_what_was_changed_in_it(
    given, suffix: str, tmp_path: Path
) -> None:
    model, facts = given
    model = model.with_product(replace(model.product("t"), name="=SUM(A1)", number="007"))
    now = table_of(model, facts)
    path = tmp_path / f"facts{suffix}"
    write_table(path, now)
    lines = read_table(path)
    assert cells_from(model, lines, now) == ({}, [])
    assert lines[1][1] == "007" and lines[1][2] == "=SUM(A1)"
    lines[0].append("Finish")
    lines[2].append("ground")
    lines[2][3] = "C"
    lines.append(["", "N-9", "Nobody"])
    cells, missing = cells_from(model, lines, now)
    assert cells == {("c", "revision"): "C", ("c", "property:Finish"): "ground"}
    assert missing == ["no item is N-9, Nobody"]
    by_number = [["Number", "Revision"], ["N-1", "D"]]
    assert cells_from(model, by_number, now) == ({("c", "revision"): "D"}, [])


def test_what_is_no_table_is_refused(tmp_path: Path, given) -> None:
    bad = tmp_path / "bad.xlsx"
    bad.write_bytes(b"PK nothing")
    with pytest.raises(GondrelError, match="table"):
        read_table(bad)
    with pytest.raises(UsageError, match=r"\.csv or \.xlsx"):
        read_table(tmp_path / "x.ods")
    with pytest.raises(UsageError, match=r"\.csv or \.xlsx"):
        write_table(tmp_path / "x.ods", table_of(*given))
    with pytest.raises(UsageError, match="no line of headings"):
        cells_from(given[0], [], table_of(*given))

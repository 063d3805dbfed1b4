"""What a file card doubts: sizes in the wrong unit, and how the file was made."""

from __future__ import annotations

import pytest

from gondrel.core.kernel.exchange.step_out import write_body
from gondrel.core.kernel.modelling.build import block, cut, cylinder, moved
from gondrel.core.model.doubts import card_doubts, size_doubt
from gondrel.core.model.provenance import FileFacts, Writer
from gondrel.core.service.cards import file_card
from tests.conftest import outside

INCHES = (0.25, 0.3125, 0.375, 0.5, 1.125, 2.5)
METRES = (0.0066, 0.009, 0.012, 0.03, 0.045)
CLEAN = (5.3, 6.6, 8.5, 12.0, 30.0, 45.0)


def _plate(diameters, size: float):
    part = block(size, size / 2, size / 10)
    for place, d in enumerate(diameters, 1):
        hole = cylinder(d / 2, size, at=(0, 0, -size / 2))
        part = cut(part, moved(hole, by=(size * place / (len(diameters) + 1), size / 4, 0)))
    return part


@pytest.mark.slow
@pytest.mark.parametrize(
    ("diameters", "size", "says"),
    [(INCHES, 12.0, "inch"), (METRES, 0.4, "metre"), (CLEAN, 400.0, "")],
    ids=["inches called millimetres", "metres called millimetres", "clean"],
)
def test_models_in_a_wrong_unit_are_doubted_with_the_evidence(diameters, size, says, tmp_path) -> None:
    path = tmp_path / "plate.stp"
    path.write_bytes(write_body(_plate(diameters, size), "mm").data)
    told = [n.text for n in file_card(str(path)).notes if n.code == "size-doubt"]
    assert bool(told) == bool(says)
    if says:
        count = len(diameters)
        assert f"taken as {says}" in told[0] and f"{count} of {count} diameters" in told[0]


@pytest.mark.slow
def test_no_outside_file_is_doubted(as1, occt_files) -> None:
    """Source: the files of the packages gmsh-doc and occt-misc, whose units are right as far as known."""
    iges = sorted(str(p) for p in outside("usr/share/opencascade/data/iges").glob("*.iges"))
    geometry = outside("usr/share/doc/gmsh-doc")
    others = [str(p) for p in geometry.rglob("*.st*p") if p.suffix in (".stp", ".step")]
    for path in (as1, *occt_files, *iges, *others):
        assert "size-doubt" not in {n.code for n in file_card(path).notes}, path


def test_huge_models_in_inches() -> None:
    """A part of 300 mm whose numbers are taken for inches."""
    found = [d * 25.4 for d in (6.6, 8.5, 12.0, 30.0)]
    assert "smaller" in size_doubt(found, 300 * 25.4, "inch") or size_doubt(found, 300 * 25.4, "inch")
    assert not size_doubt([25.4, 50.8, 12.7], 400.0, "inch")


def test_too_few_diameters_are_no_evidence() -> None:
    assert not size_doubt((0.25, 0.375), 5.0, "mm")


def _codes(**facts) -> set[str]:
    return {n.code for n in card_doubts(FileFacts("x", 1, "step", **facts))}


def test_how_a_file_was_made() -> None:
    assert "structure-flattened" in _codes(counts=(("solids", 40), ("products", 1)))
    assert "structure-flattened" not in _codes(counts=(("solids", 40), ("products", 30)))
    assert "surfaces-only" in _codes(counts=(("surfaces", 12),))
    assert "mesh-in-brep" in _codes(counts=(("solids", 1), ("faceted", 1)))
    assert "files-missing" in _codes(missing_files=("a.stp",))
    assert "old-file" in _codes(written_by=Writer(date="1998-09-11T14:19:58"))
    assert "old-edition" in _codes(schema="AP203", schema_text="CONFIG_CONTROL_DESIGN")
    assert not _codes(schema="AP242", counts=(("solids", 3), ("products", 3)))

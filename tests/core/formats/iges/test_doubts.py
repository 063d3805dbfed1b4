# ruff: noqa: E501
"""Damage to the topology of an IGES file: told, and never the end of the process."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path

import pytest

from gondrel.core.formats.iges.doubts import doubts_of
from gondrel.core.formats.iges.records import open_iges
from gondrel.core.model import Model
from gondrel.core.model.notes import GRAVE
from gondrel.core.service.receive import receive
from tests.builders import written
from tests.conftest import outside

pytestmark = pytest.mark.slow

Edit = Callable[[str], str]


@pytest.fixture(scope="module")
def plain(tmp_path_factory) -> dict[str, str]:
    folder = tmp_path_factory.mktemp("store")
    return {kind: written(kind, folder).decode("latin-1") for kind in ("iges-solid", "iges-surface")}


def swap(pattern: str, new: str) -> Edit:
    """Change the first parameters that fit, within their line of 64 columns."""

    def edit(text: str) -> str:
        found = re.search(pattern, text, re.MULTILINE)
        assert found, pattern
        line = text[text.rindex("\n", 0, found.start()) + 1 : text.index("\n", found.end())]
        data = re.sub(pattern, new, line[:64].rstrip(), count=1, flags=re.MULTILINE)
        assert len(data) <= 64
        return text.replace(line, data.ljust(64) + line[64:], 1)

    return edit


def _read(text: str, folder: Path) -> Model:
    path = folder / "damaged.igs"
    path.write_text(text, "latin-1")
    return receive(str(path), str(folder / "store"))


SOLID: tuple[tuple[str, Edit, str], ...] = (
    ("use of no kind", swap(r"^(508,4,0,\d+,\d+,\d,0,)0,", r"\g<1>9,"), "body-not-made"),
    ("curves beyond the end", swap(r"^(508,4,0,\d+,\d+,\d,)0,", r"\g<1>8,"), "body-not-made"),
    ("list that is not there", swap(r"^(508,4,0,)\d+", r"\g<1>999"), "body-not-made"),
    ("list that is no list", swap(r"^(508,4,0,)\d+", r"\g<1>1"), "body-not-made"),
    ("edge that is not there", swap(r"^(508,4,0,\d+,)\d+", r"\g<1>99"), "body-not-made"),
    ("another edge", swap(r"^(508,4,0,\d+,\d+,\d,0,0,\d+,)\d+", r"\g<1>1"), "loop-torn"),
    ("face without a loop", swap(r"^(510,\d+,)1,1,", r"\g<1>0,1,"), "body-not-made"),
    ("member that is not there", swap(r"^(308,\d,3HTop,\d+,)\d+", r"\g<1>998"), "dangling-reference"),
    ("member of another", swap(r"^(308,0,5HPlate,1,)\d+", r"\g<1>9"), "reference-wrong"),
    ("normal turned", swap(r"^123,1\.,0\.,0\.;", "123,-1.,0.,0.;"), "faces-elsewhere"),
    ("curve on a surface elsewhere", swap(r"^110,0\.,15\.,0\.,0\.,5\.", "110,0.,15.,0.,0.,91."), "edges-elsewhere"),
)  # fmt: skip
SURFACE: tuple[tuple[str, Edit, str], ...] = (
    ("line elsewhere", swap(r"^110,60\.,40\.,10\.,0\.,40\.,10\.", "110,60.,40.,10.,28.,40.,10."), "loop-torn"),
    ("turn that is none", swap(r"^124,1\.,0\.,0\.,", "124,1.,7.,0.,"), "placement-senseless"),
    ("property of two values that counts seven", swap(r"^406,2,(\d+,\d+;)", r"406,7,\g<1>"), "record-senseless"),
)  # fmt: skip


@pytest.mark.parametrize("kind", ["iges-solid", "iges-surface"])
def test_what_is_sound_is_not_doubted(kind, plain, tmp_path) -> None:
    assert not [n for n in _read(plain[kind], tmp_path).notes if n.code in GRAVE]


@pytest.mark.parametrize("name", ["bearing.iges", "hammer.iges"])
def test_sound_files_of_others_are_not_doubted(name) -> None:
    """Debian's occt-misc."""
    path = outside(Path("/usr/share/opencascade/data/iges")) / name
    assert doubts_of(open_iges(str(path))) == []


@pytest.mark.parametrize(
    ("kind", "name", "edit", "code"),
    [("iges-solid", *each) for each in SOLID] + [("iges-surface", *each) for each in SURFACE],
)
def test_damage_is_a_grave_note(kind, name, edit, code, plain, tmp_path) -> None:
    model = _read(edit(plain[kind]), tmp_path)
    assert code in {n.code for n in model.notes if n.code in GRAVE}

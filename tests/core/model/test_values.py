"""Plain values through JSON, and that nothing else is read from what is kept between processes."""

from __future__ import annotations

import math
import re
from pathlib import Path

import pytest

import gondrel
from gondrel.core.kernel.convert.boundary_out import boundary_of
from gondrel.core.model import boundary, geometry
from gondrel.core.model.geometry import Line
from gondrel.core.model.values import kinds_of, values_from_json, values_to_json
from tests.builders import block, cut, cylinder

KINDS = kinds_of(boundary, geometry)


def test_a_boundary_comes_back_as_it_was() -> None:
    made = boundary_of(cut(block(60, 40, 10), cylinder(6, 30, at=(20, 20, -5)))).boundary
    assert values_from_json(values_to_json(made), KINDS) == made


@pytest.mark.parametrize(
    "value", [(), (1, 2.5, "text", None, True), (1e-300, -0.0, 0.1 + 0.2), ((1,), ((),))]
)
def test_plain_values_come_back(value) -> None:
    assert values_from_json(values_to_json(value), {}) == value


def test_not_a_number_comes_back() -> None:
    (found,) = values_from_json(values_to_json((math.nan,)), {})
    assert math.isnan(found)


@pytest.mark.parametrize("data", [b"", b"{", b'{"Line": [1, 2', b'{"a": [], "b": []}', b"\x80\x04K\x01."])
def test_what_is_no_such_text_is_refused(data) -> None:
    with pytest.raises(ValueError, match=r".*"):
        values_from_json(data, KINDS)


def test_other_kinds_are_refused() -> None:
    line = Line((0.0, 0.0, 0.0), (1.0, 0.0, 0.0))
    with pytest.raises(KeyError):
        values_from_json(values_to_json(line), {})


def test_pickles_go_only_through_pipes_of_own_workers() -> None:
    """Only the modules of the pipes between own processes name them: one for its error, one to unpack what
    a worker says when the window has a moment for it."""
    root = Path(gondrel.__file__).parent
    reads = re.compile(r"^\s*(import|from) (c?pickle|shelve|marshal|dill)\b|ForkingPickler", re.MULTILINE)
    users = sorted(p for p in root.rglob("*.py") if reads.search(p.read_text("utf-8")))
    assert [p.relative_to(root).as_posix() for p in users] == ["core/work/sharing.py", "jobs/packing.py"]
    assert "pickle.load" not in (root / "core/work/sharing.py").read_text("utf-8")
    unpack = re.compile(r"jobs\.packing import .*\bunpack\b")
    users = [p for p in root.rglob("*.py") if unpack.search(p.read_text("utf-8"))]
    assert [p.relative_to(root).as_posix() for p in users] == ["jobs/worker.py"]

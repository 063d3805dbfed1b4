"""Names by pattern, and found and replaced."""

from __future__ import annotations

import pytest

from gondrel.core.arrange.naming import by_pattern, find_and_replace, rename_by_pattern, replaced
from gondrel.core.errors import UsageError
from gondrel.core.model import Model, Product

MODEL = Model(tuple(Product(f"p{n}", f"N-{n}", f"Bolt.{n}", "B") for n in range(3)), ("p0", "p1", "p2"))


def test_patterns_count_and_take_what_is_there() -> None:
    assert by_pattern(MODEL.products, "{n:3:10} {name}/{revision}") == [
        "010 Bolt.0/B", "011 Bolt.1/B", "012 Bolt.2/B"
    ]  # fmt: skip
    what, named = rename_by_pattern(MODEL, ["p2", "p0"], "number", "X{n}")
    assert [p.number for p in named.products] == ["X2", "N-1", "X1"] and "by the pattern X{n}" in what
    with pytest.raises(UsageError, match="weather"):
        by_pattern(MODEL.products, "{weather}")


def test_find_and_replace_plainly_and_by_expression() -> None:
    assert replaced(["a.b", "axb"], "a.b", "c", regular=False) == ["c", "axb"]
    assert replaced(["a.b", "axb"], "a.b", "c", regular=True) == ["c", "c"]
    assert replaced(["Bolt.3"], r"(\w+)\.(\d)", r"\2 \1", regular=True) == ["3 Bolt"]
    assert replaced(["BOLT"], "bolt", "nut", regular=False, case=False) == ["nut"]
    _, changed = find_and_replace(MODEL, ["p0", "p1"], "name", ".", " ")
    assert [p.name for p in changed.products] == ["Bolt 0", "Bolt 1", "Bolt.2"]
    with pytest.raises(UsageError, match="no regular expression"):
        replaced(["a"], "(", "", regular=True)
    with pytest.raises(UsageError, match="in none"):
        find_and_replace(MODEL, ["p0"], "name", "zzz", "")

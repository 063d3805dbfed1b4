"""The order of components."""

from __future__ import annotations

import pytest

from gondrel.core.arrange.ordering import move_in_order, sort_components
from gondrel.core.errors import UsageError
from gondrel.core.model import Model, Occurrence, Product


def model(names: str) -> Model:
    uses = tuple(Occurrence(n, f"p{n}", "") for n in names)
    parts = tuple(Product(f"p{n}", f"N{ord(n)}", f"Part {ord('z') - ord(n)}") for n in names)
    return Model((Product("top", "", "Top", occurrences=uses), *parts), ("top",))


def order(of: Model) -> str:
    return "".join(use.id for use in of.product("top").occurrences)


@pytest.mark.parametrize(
    ("to", "chosen", "made"),
    [
        ("first", "ce", "ceabd"), ("last", "ac", "bdeac"), ("earlier", "bc", "bcade"),
        ("later", "bc", "adbce"), ("earlier", "ac", "acbde"), ("later", "de", ""), ("first", "a", ""),
    ],
)  # fmt: skip
def test_components_are_moved_among_those_beside_them(to: str, chosen: str, made: str) -> None:
    if not made:
        with pytest.raises(UsageError, match=f"nothing to put {to}"):
            move_in_order(model("abcde"), set(chosen), to)
    else:
        assert order(move_in_order(model("abcde"), set(chosen), to)[1]) == made


def test_components_are_sorted_with_digits_as_numbers() -> None:
    numbered = model("cab")
    assert order(sort_components(numbered, {"top"}, "number")[1]) == "abc"
    assert order(sort_components(numbered, {"top"}, "name")[1]) == "cba"
    with pytest.raises(UsageError, match="stand by number already"):
        sort_components(model("abc"), {"top"}, "number")

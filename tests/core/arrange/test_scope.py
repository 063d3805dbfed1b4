"""What of a model is sent."""

from __future__ import annotations

import pytest

from gondrel.core.arrange.scope import queried, scoped
from gondrel.core.errors import UsageError
from gondrel.core.model import Body, BodyKind, Model, Occurrence, Product, Rgba


@pytest.fixture
def model() -> Model:
    def part(key: str, name: str, layer: str) -> Product:
        body = Body(f"b{key}", BodyKind.SOLID, name, f"blob {key}", Rgba(1, 0, 0), layers=(layer,))
        return Product(key, f"N-{key}", name, bodies=(body,))

    at = (1.0, 0.0, 0.0, 9.0, 0.0, 1.0, 0.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 0.0, 1.0)
    inner = Product("s", "S", "Set", occurrences=(Occurrence("u1", "1", ""), Occurrence("u2", "2", "", at)))
    top = Product("t", "T", "Top", occurrences=(Occurrence("v1", "s", "", at), Occurrence("v2", "3", "")))
    return Model(
        (top, inner, part("1", "Plate", "A"), part("2", "Pin", "B"), part("3", "Pin long", "B")), ("t",)
    )


@pytest.mark.parametrize(
    ("query", "found"),
    [("pin*", "23"), ("N-1", "1"), ("layer:b", "23"), ("kind:assembly", "ts"), ("colour:#FF0000", "123"),
     ("number:s", "s")],
)  # fmt: skip
def test_queries(model: Model, query: str, found: str) -> None:
    assert queried(model, [query]) == list(found)


def test_what_fits_nothing_or_is_no_term_is_refused(model: Model) -> None:
    for queries in (["none"], ["speed:3"]):
        with pytest.raises(UsageError):
            queried(model, queries)


def test_one_goes_by_itself_and_several_where_they_stand(model: Model) -> None:
    one, told = scoped(model, ["s"])
    assert one.roots == ("s",) and {p.id for p in one.products} == {"s", "1", "2"}
    assert told == ("Only 2 of 3 parts are sent, as chosen.",)
    several, _ = scoped(model, ["2", "3"])
    several.check_structure()
    assert several.roots == ("t",) and {p.id for p in several.products} == {"t", "s", "2", "3"}
    places = {place.product: place.placement[3] for place in several.walk()}
    assert places["2"] == 18.0 and places["3"] == 0.0
    assert scoped(model, ["t", "1"]) == (model, ())
    with pytest.raises(UsageError):
        scoped(model, [])

"""A small model with everything that a recipient may stumble over."""

from __future__ import annotations

from gondrel.core.kernel.base.shape import faces_of, shape_to_blob
from gondrel.core.kernel.examples.broken import moved_vertex
from gondrel.core.kernel.modelling import build
from gondrel.core.model import (
    Body,
    BodyKind,
    Material,
    Metadatum,
    Model,
    Occurrence,
    Product,
    Rgba,
)
from gondrel.core.model.store import BlobStore

RED, BLUE = Rgba(1, 0, 0), Rgba(0, 0, 1)
LONG = "Bearing bracket, upper, with oil channel"


def nasty(store: BlobStore) -> Model:
    """An assembly twice in another: a coloured block of a long name, a gaping block, a sheet."""
    gaping = moved_vertex(0.05)
    sheet = faces_of(build.block(30, 20, 5))[0]

    def put(shape: object) -> str:
        return store.put(shape_to_blob(shape))  # type: ignore[arg-type]

    block = Body("b1", BodyKind.SOLID, LONG, put(build.block(20, 30, 10)), RED,
                 face_colours=((0, BLUE), (3, BLUE)), layers=("Castings",))  # fmt: skip
    pin = Body("b2", BodyKind.SOLID, "Pin", put(gaping), BLUE)
    skin = Body("b3", BodyKind.SHEET, "Skin", put(sheet))
    parts = (
        Product("p1", "N-1", LONG, "B", "cast", Material("Iron", 7200.0), (Metadatum("Pattern", "M-1"),),
                (block,)),
        Product("p2", "N-2", "Pin", "A", bodies=(pin,)),
        Product("p3", "N-3", "Skin", bodies=(skin,)),
    )  # fmt: skip
    turned = (0.0, -1.0, 0.0, 80.0, 1.0, 0.0, 0.0, 10.0, 0.0, 0.0, 1.0, 5.0, 0.0, 0.0, 0.0, 1.0)
    inner = Product("set", "S-1", "Bracket set", "A", occurrences=(
        Occurrence("u1", "p1", "Bracket"), Occurrence("u2", "p2", "Pin", turned)))  # fmt: skip
    top = Product("top", "T-1", "Two sets", "A", occurrences=(
        Occurrence("v1", "set", "First"), Occurrence("v2", "set", "Second", turned),
        Occurrence("v3", "p3", "Skin")))  # fmt: skip
    return Model((top, inner, *parts), ("top",))

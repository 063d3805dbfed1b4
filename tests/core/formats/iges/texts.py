"""IGES texts made on purpose."""

from __future__ import annotations

from collections.abc import Callable

from gondrel.core.formats.iges.compose import Datum, EntityComposer
from gondrel.core.formats.iges.records import parse_iges
from gondrel.core.kernel.exchange.iges_out import write_iges_body
from gondrel.core.kernel.modelling.build import block


def header(flag: int = 2, name: str = "MM", **places: Datum) -> list[Datum]:
    """A global section; places are p13=..., by the numbers of the standard's table."""
    values: list[Datum] = [
        b",", b";", b"part", b"part.igs", b"Sender 4", b"Pre 2", 32, 38, 6, 308, 15, b"part", 1.0, flag,
        name.encode(), 1, 0.01, b"20260102.030405", 1e-5, 100.0, b"A. Author", b"Ostrey", 11, 0,
        b"20260102.030405",
    ]  # fmt: skip
    for key, value in places.items():
        values[int(key[1:]) - 1] = value
    return values


def text_of(fill: Callable[[EntityComposer], None], head: list[Datum] | None = None) -> bytes:
    """A file of the entities that fill adds."""
    make = EntityComposer()
    fill(make)
    return make.text(["made for a test"], head or header())


def add_block(make: EntityComposer, *size: float, as_solid: bool = True) -> int:
    """Add a block; returns the number of its solid or of the group of its surfaces."""
    data = write_iges_body(block(*size), "mm", as_solid=as_solid)
    file = parse_iges(data)
    offset = make.embed(file)
    return offset + next(file.of(186 if as_solid else 402)).number


def add_lid(make: EntityComposer) -> int:
    """Add a block with a name, a named level and a colour of its own; returns the number of its solid."""
    body = add_block(make, 2, 3, 4)
    brown = make.add(314, [60.0, 40.0, 20.0, b"brown"])
    make.add(406, [2, 0, b"Housing"], form=3, level=7)
    name = make.add(406, [1, b"Lid"], form=15)
    out = make.out(body)
    out.colour, out.level = -brown, 7
    make.link(body, [name])
    return body

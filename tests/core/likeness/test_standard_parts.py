"""Standard parts by their dimensions. The tables' figures are from memory of the standards they name."""

from __future__ import annotations

from typing import Any

import pytest

from gondrel.core.kernel.inspect.axes import about_axis
from gondrel.core.kernel.measure.mass import measure
from gondrel.core.kernel.modelling import build
from gondrel.core.likeness.standard_parts import StandardPart, standard_part
from gondrel.demo import parts


def told(shape: Any) -> StandardPart | None:
    axial = about_axis(shape)
    return standard_part(axial, measure(shape).volume) if axial is not None else None


def socket_screw() -> Any:
    head = build.turned([(0, 0), (4, 0), (4, 25), (6.5, 25), (6.5, 33), (0, 33)])
    width = 6 / 3**0.5
    corners = [(width, 0), (width / 2, 3), (-width / 2, 3), (-width, 0), (-width / 2, -3), (width / 2, -3)]
    socket = build.prism(corners[0], [build.LineTo(c) for c in (*corners[1:], corners[0])], 4)
    return build.cut(head, build.moved(socket, by=(0, 0, 29)))


@pytest.mark.parametrize(
    ("make", "standard", "designation"),
    [
        (parts.hex_screw, "ISO 4014 / ISO 4017", "M12 \u00d7 45"),
        (parts.hex_nut, "ISO 4032", "M12"),
        (lambda: parts.hex_nut(24, 14.8, 8), "ISO 4032", "M16"),
        (parts.washer, "ISO 7089", "12"),
        (lambda: parts.feather_key(8, 7, 28), "DIN 6885", "A 8 \u00d7 7 \u00d7 28"),
        (socket_screw, "ISO 4762", "M8 \u00d7 25"),
        (lambda: build.turned([(0, 0), (2.6, 0), (3, 1.2), (3, 18.8), (2.6, 20), (0, 20)]), "ISO 2338",
         "6 \u00d7 20"),
    ],
)  # fmt: skip
def test_it_is_named_wherever_it_stands(make: Any, standard: str, designation: str) -> None:
    shape = build.moved(make(), by=(10, -20, 30))
    found = told(shape)
    assert found is not None
    assert (found.standard, found.designation) == (standard, designation)
    assert "table" in found.evidence


@pytest.mark.parametrize(
    "make",
    [
        lambda: build.cylinder(6, 30),
        lambda: build.block(8, 7, 28),
        lambda: parts.hex_nut(23, 14.8, 8),
        lambda: parts.hex_nut(18, 14.8, 6),
        lambda: build.turned([(6.5, 0), (12, 0), (12, 4), (6.5, 4)]),
        parts.roller_pin,
        parts.pawl_pin,
        parts.bush_large,
        parts.pinion_shaft,
    ],
)
def test_what_fits_no_table_is_not_named(make: Any) -> None:
    assert told(make()) is None

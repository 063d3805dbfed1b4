"""The mends there are, in the order in which they are tried."""

from __future__ import annotations

from gondrel.core.kernel.fitting import fit_tolerances, vertices_to_edges
from gondrel.core.kernel.mending import close_rims, drop_doubled, drop_slivers, join_skins, turn_alike
from gondrel.core.mends.base import Mend

__all__ = ["MENDS"]

_SLIVER = 0.02
"""Width up to which a face is removed, mm: twice what the checks call too narrow."""

MENDS = (
    Mend(
        "R101", "drop-doubled", "Drop faces said twice", ("T107", "T103"), True, False,
        lambda shapes, tolerance: drop_doubled(shapes[0], tolerance),
    ),
    Mend(
        "R102", "turn-alike", "Turn faces alike, material inside", ("T104", "T105"), True, False,
        lambda shapes, tolerance: turn_alike(shapes[0]),
    ),
    Mend(
        "R105", "drop-slivers", "Remove slivers and tiny faces", ("G302", "G301"), True, False,
        lambda shapes, tolerance: drop_slivers(shapes[0], max(_SLIVER, 2 * tolerance)),
    ),
    Mend(
        "R106", "vertices-to-edges", "Put vertices where their edges end", ("G202",), True, False,
        lambda shapes, tolerance: vertices_to_edges(shapes[0], tolerance),
        to_own=True,
    ),
    Mend(
        "R107", "fit-tolerances", "Make tolerances as small as the gaps allow", ("G203",), True, False,
        lambda shapes, tolerance: fit_tolerances(shapes[0]),
    ),
    Mend(
        "R103", "join", "Join skins along common edges", ("T101", "T102", "A506"), True, True,
        lambda shapes, tolerance: join_skins(shapes, tolerance),
    ),
    Mend(
        "R104", "close-rims", "Close open rims and make a solid", ("T101", "T102", "A506"), False, True,
        lambda shapes, tolerance: close_rims(shapes, tolerance),
    ),
)  # fmt: skip

"""Bodies made of a plain boundary so that their faces lie where it says.

Where a face on a sphere comes out as all but what is meant, its surface gets another axis: the sphere stays
what it is, and its poles and its seam come to lie elsewhere.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from gondrel.core.integral.outline import BodyOutline
from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import faces_of
from gondrel.core.kernel.convert.boundary_in import BodyMaker, MadeBody, Making
from gondrel.core.kernel.exchange.outline_check import faces_elsewhere
from gondrel.core.model.boundary import Boundary
from gondrel.core.model.geometry import Sphere

__all__ = ["OutlineFit", "faces_astray", "fitted_to_outline"]

_AXES = ((1, 0, 0), (0, 1, 0), (1, 1, 1), (-1, 1, 1), (1, -1, 1), (1, 1, -1), (1, 2, 0), (0, 1, 2))


@dataclass(frozen=True, slots=True)
class OutlineFit:
    """What was made of a boundary, and the numbers of the faces that do not lie where it says."""

    making: Making
    astray: tuple[int, ...]
    tried: int = 1


def fitted_to_outline(boundary: Boundary, outline: BodyOutline, first: Making | None = None) -> OutlineFit:
    """The bodies of a boundary with as few faces astray as can be had.

    Args:
        first: what was made of it already, where it was.

    Raises:
        KernelRefused: when nothing can be made of it.
    """
    making = first if first is not None else BodyMaker(boundary).make()
    best = OutlineFit(making, faces_astray(making.bodies, outline))
    for tried, axis in enumerate(_AXES, 2):
        spheres = [n for n in best.astray if isinstance(boundary.faces[n].surface, Sphere)]
        if not spheres:
            break
        boundary = _with_axes(boundary, spheres, axis)
        making = BodyMaker(boundary).make()
        astray = faces_astray(making.bodies, outline)
        if len(astray) < len(best.astray):
            best = OutlineFit(making, astray, tried)
    return best


def faces_astray(bodies: Sequence[MadeBody], outline: BodyOutline) -> tuple[int, ...]:
    """Numbers of the faces that do not lie where the outline says; those that were parted are passed over.

    Raises:
        KernelRefused: when the kernel fails over one.
    """
    numbers, shapes = [], []
    for body in bodies:
        faces = faces_of(body.shape)
        for number, places in body.faces.items():
            if len(places) == 1:
                numbers.append(number)
                shapes.append(faces[places[0]])
    with kernel_call("holding faces against what the file says"):
        astray = faces_elsewhere(shapes, outline.only(numbers))
    return tuple(numbers[place] for place in astray)


def _with_axes(boundary: Boundary, numbers: Sequence[int], axis: Sequence[float]) -> Boundary:
    """The boundary with the spheres of some faces turned, in their own frames, to another axis."""
    faces = list(boundary.faces)
    for number in numbers:
        surface = faces[number].surface
        assert isinstance(surface, Sphere)
        z, x = np.array(surface.axis), np.array(surface.x_axis)
        frame = np.column_stack([x, np.cross(z, x), z])
        ahead: NDArray[np.float64] = frame @ (np.array(axis) / np.linalg.norm(axis))
        side = np.cross(ahead, x if abs(float(ahead @ x)) < 0.9 else z)
        side /= np.linalg.norm(side)
        turned = replace(surface, axis=tuple(ahead.tolist()), x_axis=tuple(side.tolist()))
        faces[number] = replace(faces[number], surface=turned)
    return replace(boundary, faces=tuple(faces))

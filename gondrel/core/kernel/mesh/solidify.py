"""A mesh body as a solid B-rep through the kernel, checked against the mesh."""

from __future__ import annotations

from dataclasses import dataclass

from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.TopoDS import TopoDS_Shape

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.convert.boundary_in import BodyMaker
from gondrel.core.kernel.measure.mass import measure
from gondrel.core.kernel.mesh.facet_solid import solid_boundary
from gondrel.core.model.body import BodyKind
from gondrel.core.model.facets import Facets

__all__ = ["MadeSolid", "make_solids"]

_SAME_VOLUME = 1e-6
_EXACT = 1e-6


@dataclass(frozen=True, slots=True)
class MadeSolid:
    """The solids a mesh bounds.

    Args:
        shapes: one for each skin that is no cavity; facets: how many triangles there were; faces: how
            many faces they became; cylinders: how many of those are cylinders; deviation: how far the
            faces lie off the facets, mm; volume_change: relative, what cylinders add or take away.
    """

    shapes: tuple[TopoDS_Shape, ...]
    facets: int
    faces: int
    cylinders: int
    deviation: float
    volume_change: float

    def __str__(self) -> str:
        text = f"{self.facets:,} facets became {self.faces:,} faces"
        if self.cylinders:
            text += f", {self.cylinders} of them cylinders"
        if self.deviation < _EXACT:
            return f"{text}, which lie on them"
        return f"{text}, which lie up to {self.deviation:.2g} mm off them"


def make_solids(mesh: Facets, *, tolerance: float = 0.0, shaped: bool = False) -> MadeSolid:
    """The solids a closed mesh bounds.

    Args:
        tolerance: how far facets may lie off a face they are merged into, mm.
        shaped: whether cylinders are recognised.

    Raises:
        KernelRefused: when the mesh bounds none, with where; when the kernel's solid is not sound or
            does not hold what the mesh holds.
    """
    plan = solid_boundary(mesh, tolerance=tolerance, shaped=shaped)
    making = BodyMaker(plan.boundary).make()
    shapes = tuple(body.shape for body in making.bodies if body.kind is BodyKind.SOLID)
    with kernel_call("checking a solid made of facets"):
        is_sound = all(BRepCheck_Analyzer(shape).IsValid() for shape in shapes)
    if not shapes or len(shapes) != len(making.bodies) or not is_sound:
        raise KernelRefused("the faces made of the facets bound no sound solid")
    volume = sum(measure(shape).volume for shape in shapes)
    change = volume / mesh.volume - 1
    if not plan.cylinders and abs(change) > _SAME_VOLUME:
        raise KernelRefused(f"the solid made of the facets holds {change:+.2g} relative more than they do")
    faces = len(plan.boundary.faces)
    return MadeSolid(shapes, plan.facets, faces, plan.cylinders, plan.deviation, change)

"""A scene cut open: planes that clip what is drawn."""

from __future__ import annotations

import vtkmodules.vtkRenderingOpenGL2  # noqa: F401  # what an actor's shader is made by
from vtkmodules.vtkCommonDataModel import vtkPlane
from vtkmodules.vtkRenderingCore import vtkActor, vtkPolyDataMapper

from gondrel.core.model.cutting import CLEAR, Cut

__all__ = ["Opening"]

_CLIP = "//VTK::Clip::Impl"
_CORNER = (
    "bool taken = numClipPlanes > 0;\n"
    "for (int n = 0; n < numClipPlanes; n++) { if (clipDistancesVSOutput[n] >= 0.0) taken = false; }\n"
    "if (taken) discard;\n"
)
"""What lies beyond all planes is left out; of itself the driver leaves out what lies beyond any."""

_LIGHT = "//VTK::Light::Impl"
_FLAT_INSIDE = (
    "//VTK::Light::Impl\n"
    "if (gl_FrontFacing == false) { gl_FragData[0] = vec4(diffuseColor * 0.92, opacity); }\n"
)
"""The inner side of a closed skin, seen through the cut, is drawn without light and so looks like the cut
face, which an exact one covers as soon as it is there."""


class Opening:
    """The planes of a cut as the picture clips by them, shared by all that is cut."""

    def __init__(self) -> None:
        self.cut = CLEAR
        self._planes: list[vtkPlane] = []

    def take(self, cut: Cut) -> bool:
        """Clip by another cut; whether planes were added or taken away, so that what is drawn has to be
        told."""
        before = (len(self._planes), self.is_corner)
        self.cut = cut
        while len(self._planes) < len(cut.planes):
            self._planes.append(vtkPlane())
        del self._planes[len(cut.planes) :]
        for made, plane in zip(self._planes, cut.planes, strict=True):
            made.SetOrigin(*plane.point)
            made.SetNormal(*(-plane.unit).tolist())  # what lies on the side of its normal is kept
        return before != (len(self._planes), self.is_corner)

    @property
    def is_corner(self) -> bool:
        """Whether only what lies beyond several planes at once is taken away."""
        return len(self.cut.planes) > 1 and not self.cut.keeps_within

    def clip(self, actor: vtkActor, mapper: vtkPolyDataMapper | None = None) -> None:
        """Have an actor clipped, or no longer."""
        chosen = mapper if mapper is not None else actor.GetMapper()
        if chosen is None:
            return
        chosen.RemoveAllClippingPlanes()
        for plane in self._planes:
            chosen.AddClippingPlane(plane)
        shader = actor.GetShaderProperty()
        shader.ClearAllFragmentShaderReplacements()
        if self._planes:
            shader.AddFragmentShaderReplacement(_LIGHT, True, _FLAT_INSIDE, False)
        if self.is_corner:
            shader.AddFragmentShaderReplacement(_CLIP, True, _CORNER, False)

"""A solid taken apart into its faces, which are sewn again at a given tolerance."""

from __future__ import annotations

from OCP.BRepBuilderAPI import BRepBuilderAPI_Sewing

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import faces_of, shape_from_blob, shape_to_blob

__all__ = ["resewn"]


def resewn(blob: bytes, tolerance: float) -> tuple[bytes, dict[int, int]]:
    """The faces of a solid sewn at a tolerance, mm, and where each of them is then.

    Raises:
        KernelRefused: when they do not hang together.
    """
    with kernel_call("sewing faces"):
        faces = faces_of(shape_from_blob(blob))
        sewing = BRepBuilderAPI_Sewing(tolerance)
        for face in faces:
            sewing.Add(face)
        sewing.Perform()
        sewn = sewing.SewedShape()
        if sewn.IsNull():
            raise KernelRefused("the faces do not hang together")
        made = faces_of(sewn)
        places: dict[int, int] = {}
        for place, face in enumerate(faces):
            after = sewing.Modified(face) if sewing.IsModified(face) else face
            now = next((n for n, each in enumerate(made) if each.IsSame(after)), None)
            if now is not None:
                places[place] = now
        return shape_to_blob(sewn), places

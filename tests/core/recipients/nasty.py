"""A small model with everything that a recipient may stumble over."""

from __future__ import annotations

from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
from OCP.Geom import Geom_BezierSurface
from OCP.gp import gp_Pnt
from OCP.OCP.collections import Array2_gp_Pnt as Poles
from OCP.TopoDS import TopoDS_Shape

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


def wavy_sheet(degree: int) -> TopoDS_Shape:
    """A sheet on one Bezier surface of a degree."""
    poles = Poles(1, degree + 1, 1, 2)
    for row in range(degree + 1):
        for column in range(2):
            poles.SetValue(row + 1, column + 1, gp_Pnt(3.0 * row, 20.0 * column, 4.0 * (row % 2)))
    return BRepBuilderAPI_MakeFace(Geom_BezierSurface(poles), 1e-7).Shape()


def nasty(store: BlobStore) -> Model:
    """An assembly twice in another: a coloured block of a long name, a gaping block; beside them a sheet, a
    hollow block and a sheet of high degree."""
    gaping = moved_vertex(0.05)
    sheet = faces_of(build.block(30, 20, 5))[0]

    def put(shape: object) -> str:
        return store.put(shape_to_blob(shape))  # type: ignore[arg-type]

    block = Body("b1", BodyKind.SOLID, LONG, put(build.block(20, 30, 10)), RED,
                 face_colours=((0, BLUE), (3, BLUE)), layers=("Castings",))  # fmt: skip
    pin = Body("b2", BodyKind.SOLID, "Pin", put(gaping), BLUE)
    skin = Body("b3", BodyKind.SHEET, "Skin", put(sheet))
    hollow = build.cut(build.block(10, 10, 10), build.block(4, 4, 4, at=(3, 3, 3)))
    wavy = wavy_sheet(11)
    core = Body("b4", BodyKind.SOLID, "Hollow", put(hollow), RED)
    wave = Body("b5", BodyKind.SHEET, "Wave", put(wavy))
    parts = (
        Product("p1", "N-1", LONG, "B", "cast", Material("Iron", 7200.0), (Metadatum("Pattern", "M-1"),),
                (block,)),
        Product("p2", "N-2", "Pin", "A", bodies=(pin,)),
        Product("p3", "N-3", "Skin", bodies=(skin,)),
        Product("p5", "N-5", "Hollow", bodies=(core,)),
        Product("p6", "N-6", "Wave", bodies=(wave,)),
    )  # fmt: skip
    turned = (0.0, -1.0, 0.0, 80.0, 1.0, 0.0, 0.0, 10.0, 0.0, 0.0, 1.0, 5.0, 0.0, 0.0, 0.0, 1.0)
    inner = Product("set", "S-1", "Bracket set", "A", occurrences=(
        Occurrence("u1", "p1", "Bracket"), Occurrence("u2", "p2", "Pin", turned)))  # fmt: skip
    top = Product("top", "T-1", "Two sets", "A", occurrences=(
        Occurrence("v1", "set", "First"), Occurrence("v2", "set", "Second", turned),
        Occurrence("v3", "p3", "Skin"), Occurrence("v8", "p5", "Hollow"),
        Occurrence("v9", "p6", "Wave")))  # fmt: skip
    return Model((top, inner, *parts), ("top",))

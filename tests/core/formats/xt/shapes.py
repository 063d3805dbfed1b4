"""Bodies for the tests of XT, and their files."""

from __future__ import annotations

import math

from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeWire,
    BRepBuilderAPI_NurbsConvert,
)
from OCP.BRepOffsetAPI import BRepOffsetAPI_ThruSections
from OCP.gp import gp_Ax2, gp_Circ, gp_Dir, gp_Pnt
from OCP.TopoDS import TopoDS_Shape

from gondrel.core.formats.xt.body_read import ReadBody, read_body
from gondrel.core.formats.xt.body_write import add_body
from gondrel.core.formats.xt.builder import NodeBuilder
from gondrel.core.formats.xt.geometry_read import GeometryReader
from gondrel.core.formats.xt.nodes import Document, Header
from gondrel.core.formats.xt.text import read_text, write_text
from gondrel.core.formats.xt.write import VERSION
from gondrel.core.kernel.base.shape import edges_of, faces_of
from gondrel.core.kernel.convert.boundary_in import BodyMaker, Making
from gondrel.core.kernel.convert.boundary_out import boundary_of
from gondrel.core.kernel.modelling import build

HEADER = Header("text", (("FORMAT", "text"),), VERSION)
BINARY = Header("binary", (("FORMAT", "binary"),), VERSION)


def document_of(shape: TopoDS_Shape, header: Header = HEADER) -> Document:
    make = NodeBuilder()
    written = add_body(make, boundary_of(shape).boundary)
    make.set(written.body, highest_node_id=make.number(range(1, len(make) + 1)))
    return make.document(header)


def text_of(shape: TopoDS_Shape) -> bytes:
    return write_text(document_of(shape))


def body_in(document: Document) -> ReadBody:
    return read_body(document, document.root, GeometryReader(document))


def made_from(data: bytes) -> Making:
    return BodyMaker(body_in(read_text(data)).boundary).make()


def loft() -> TopoDS_Shape:
    """A closed B-spline side between two planes."""
    tool = BRepOffsetAPI_ThruSections(True, False)
    for height, radius in ((0.0, 5.0), (10.0, 8.0), (20.0, 4.0)):
        circle = gp_Circ(gp_Ax2(gp_Pnt(0, 0, height), gp_Dir(0, 0, 1)), radius)
        tool.AddWire(BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(circle).Edge()).Wire())
    tool.Build()
    return tool.Shape()


def spline_prism() -> TopoDS_Shape:
    """A prism with one B-spline side."""
    spline = build.SplineTo(((20, 0), (26, 8), (22, 14), (20, 20)))
    pieces = (build.LineTo((20, 0)), spline, build.LineTo((0, 20)), build.LineTo((0, 0)))
    return build.prism((0, 0), pieces, 12)


def stepped_shaft() -> TopoDS_Shape:
    return build.turned([(0, 0), (10, 0), (10, 20), (6, 20), (6, 45), (4, 45), (4, 60), (0, 60)])


def all_shapes() -> dict[str, TopoDS_Shape]:
    block = build.block(40, 30, 20)
    upright = build.edges_along(block, (0, 0, 1), lambda at: True)
    return {
        "block": block,
        "block with hole": build.cut(block, build.cylinder(6, 40, at=(20, 15, -5))),
        "stepped shaft": stepped_shaft(),
        "cylinder": build.cylinder(5, 10),
        "cone": build.cone(5, 0, 10),
        "frustum": build.cone(5, 2, 10),
        "sphere": build.sphere(5),
        "torus": build.torus(10, 3),
        "filleted block": build.fillet(block, 4, upright),
        "rounded all over": build.fillet(block, 3, edges_of(block)),
        "loft": loft(),
        "spline prism": spline_prism(),
        "cavity": build.cut(build.block(20, 20, 20), build.moved(build.sphere(4), by=(10, 10, 10))),
        "sheet": faces_of(build.cylinder(5, 10))[0],
        "plane sheet": faces_of(block)[0],
        "cylinder of splines": BRepBuilderAPI_NurbsConvert(build.cylinder(5, 10), True).Shape(),
        "sphere of splines": BRepBuilderAPI_NurbsConvert(build.sphere(5), True).Shape(),
        "torus of splines": BRepBuilderAPI_NurbsConvert(build.torus(10, 3), True).Shape(),
    }


VOLUMES = {
    "block": 40 * 30 * 20,
    "block with hole": 40 * 30 * 20 - math.pi * 36 * 20,
    "cylinder": math.pi * 25 * 10,
    "cone": math.pi * 25 * 10 / 3,
    "frustum": math.pi * 10 / 3 * (25 + 10 + 4),
    "sphere": 4 / 3 * math.pi * 125,
    "torus": 2 * math.pi**2 * 10 * 9,
    "cavity": 8000 - 4 / 3 * math.pi * 64,
    "cylinder of splines": math.pi * 25 * 10,
    "sphere of splines": 4 / 3 * math.pi * 125,
    "torus of splines": 2 * math.pi**2 * 10 * 9,
    "stepped shaft": math.pi * (100 * 20 + 36 * 25 + 16 * 15),
}
"""mm3, by the closed formulas of solid geometry (Bronshtein et al., Handbook of Mathematics, the
section on solids; from memory)."""

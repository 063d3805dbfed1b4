"""What other modellers write and our writer does not: procedural geometry, tolerant edges by curves on
surfaces, negative senses, edited schemas, mirrored instances. Every volume is known in closed form."""

from __future__ import annotations

import math
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from OCP.BRep import BRep_Tool
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeWire,
    BRepBuilderAPI_Transform,
)
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakePipe
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.GeomAdaptor import GeomAdaptor_Curve
from OCP.gp import gp_Ax1, gp_Ax2, gp_Circ, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec
from OCP.TopExp import TopExp
from scipy.integrate import quad

from gondrel.core.formats.xt.audit import audit
from gondrel.core.formats.xt.builder import NodeBuilder
from gondrel.core.formats.xt.geometry_write import add_nurbs_curve
from gondrel.core.formats.xt.nodes import Document, Node
from gondrel.core.formats.xt.schema import Field, NodeType
from gondrel.core.formats.xt.text import read_text, write_text
from gondrel.core.kernel.base.shape import edges_of
from gondrel.core.kernel.convert import boundary_out
from gondrel.core.kernel.convert.geometry_out import curve_of
from gondrel.core.kernel.geometry.splines import spline_in
from gondrel.core.kernel.measure.mass import measure
from gondrel.core.kernel.modelling import build
from gondrel.core.model.geometry import BCurve, OnSurface
from gondrel.core.service.receive import measure_all, receive
from tests.core.formats.xt.edited import (
    add,
    chart,
    figures,
    limit,
    metres,
    of,
    replace_node,
    set_values,
    use,
)
from tests.core.formats.xt.shapes import VOLUMES, all_shapes, body_in, document_of, made_from

SHAPES = all_shapes()


def crossing(radius: float, other: float) -> Document:
    """Two cylinders across one another, fused."""
    one = build.cylinder(radius, 60, at=(0, 0, -30))
    two = build.cylinder(other, 60, at=(-30, 0, 0), axis=(1, 0, 0))
    return document_of(build.fuse(one, two))


def crossing_volume(radius: float, other: float) -> float:
    """The common part is 8 times the integral of the product of the half widths (textbook integral)."""
    low = min(radius, other)
    common = 8 * quad(lambda x: math.sqrt(radius**2 - x**2) * math.sqrt(other**2 - x**2), 0, low)[0]
    return math.pi * (radius**2 + other**2) * 60 - common


def into_intersections(document: Document, points: int) -> int:
    """Every B-curve of an edge becomes an intersection curve with a chart of so many points."""
    body = body_in(document)
    count = 0
    for number, edge in enumerate(body.boundary.edges):
        if not isinstance(edge.curve, BCurve):
            continue
        spline = spline_in(edge.curve)
        ts = np.linspace(spline.FirstParameter(), spline.LastParameter(), points)
        run = np.array([spline.Value(float(t)).Coord() for t in ts])
        node = document.nodes[body.edges[number]]
        fins = [f for f in of(document, "FIN") if f["edge"] == node.index]
        surfaces = [document.nodes[document.nodes[f["loop"]]["face"]]["surface"] for f in fins]
        closed = edge.start == edge.end
        ends = ["H", "H"] if closed else ["L", "L"]
        made = replace_node(
            document, document.nodes[node["curve"]], "INTERSECTION", surface=surfaces,
            chart=chart(document, run), start=limit(document, ends[0], run[0]),
            end=limit(document, ends[1], run[-1]),
        )  # fmt: skip
        for surface in surfaces:
            use(document, made.index, surface)
        count += 1
    return count


@pytest.mark.parametrize("points", [9, 25])
def test_intersection_curves_of_two_cylinders(points: int) -> None:
    document = crossing(10.0, 6.0)
    assert into_intersections(document, points) >= 2
    found, remarks = figures(document)
    assert found.volume == pytest.approx(crossing_volume(10.0, 6.0), rel=1e-7)
    assert any("intersection curve" in remark for remark in remarks), "the approximation is told"
    assert not audit(document)


def test_an_intersection_curve_that_is_a_conic_is_exact() -> None:
    """A cylinder cut obliquely: its volume is that of the cylinder to the middle of the cut."""
    tool = build.moved(build.block(100, 100, 100), by=(-50, -50, 30))
    turn = gp_Trsf()
    turn.SetRotation(gp_Ax1(gp_Pnt(0, 0, 30), gp_Dir(1, 0, 0)), 0.4)
    oblique = BRepBuilderAPI_Transform(tool, turn, True).Shape()
    document = document_of(build.cut(build.cylinder(8, 60), oblique))
    body = body_in(document)
    for number, edge in enumerate(body.boundary.edges):
        if type(edge.curve).__name__ != "Ellipse":
            continue
        curve = edge.curve
        x, n = np.array(curve.x_axis), np.array(curve.normal)
        y = np.cross(n, x)
        angles = np.linspace(0, 2 * math.pi, 13)
        run = np.array(
            [
                np.array(curve.centre) + curve.major * math.cos(a) * x + curve.minor * math.sin(a) * y
                for a in angles
            ]
        )
        node = document.nodes[body.edges[number]]
        fins = [f for f in of(document, "FIN") if f["edge"] == node.index]
        surfaces = [document.nodes[document.nodes[f["loop"]]["face"]]["surface"] for f in fins]
        made = replace_node(
            document, document.nodes[node["curve"]], "INTERSECTION", surface=surfaces,
            chart=chart(document, run), start=limit(document, "H", run[0]),
            end=limit(document, "H", run[-1]),
        )  # fmt: skip
        for surface in surfaces:
            use(document, made.index, surface)
        break
    else:
        pytest.fail("there is no ellipse")
    found, remarks = figures(document)
    assert found.volume == pytest.approx(math.pi * 64 * 30, rel=1e-9)
    assert not remarks


def test_tolerant_edges_told_by_curves_on_surfaces(monkeypatch) -> None:
    """Every edge of a half cylinder without a curve of its own, its fins with curves on their faces."""
    monkeypatch.setattr(boundary_out, "EXACT", -1.0)
    half = build.common(build.cylinder(9, 20), build.block(30, 30, 30, at=(0, -15, -5)))
    outcome = boundary_out.boundary_of(half)
    assert all(edge.curve is None for edge in outcome.boundary.edges)
    document = document_of(half)
    for curve in of(document, "SP_CURVE"):
        set_values(curve, original=0)
    for edge in of(document, "EDGE"):
        set_values(edge, tolerance=2e-8)
    laid = [f.curve for face in body_in(document).boundary.faces for loop in face.loops for f in loop]
    assert laid and all(curve is not None for curve in laid)
    found, _ = figures(document)
    assert found.volume == pytest.approx(math.pi * 81 / 2 * 20, rel=1e-8)


def test_a_tolerant_edge_keeps_the_gap_as_its_tolerance() -> None:
    document = document_of(SHAPES["block with hole"])
    edge = of(document, "EDGE")[0]
    set_values(edge, tolerance=3e-6)
    making = made_from(write_text(document))
    assert max(BRep_Tool.Tolerance_s(e) for e in edges_of(making.bodies[0].shape)) >= 3e-3 * 0.99


# --- blends ----------------------------------------------------------------------------------


def into_blend(document: Document, surface: Node, spine: int, radius: float) -> None:
    """A surface becomes the envelope of a ball along a spine between the faces beside it."""
    face = next(f for f in of(document, "FACE") if f["surface"] == surface.index)
    planes = of(document, "PLANE")[:2]
    made = replace_node(
        document, surface, "BLENDED_EDGE", type="R", surface=[p.index for p in planes], spine=spine,
        range=[-radius * 1e-3, -radius * 1e-3], thumb_weight=[1.0, 1.0], boundary=[0, 0],
    )  # fmt: skip
    assert document.nodes[face["surface"]].kind == "BLENDED_EDGE"
    for used in (*(p.index for p in planes), spine):
        use(document, made.index, used)


def test_a_rolling_ball_along_a_straight_spine() -> None:
    document = document_of(SHAPES["filleted block"])
    for surface in of(document, "CYLINDER"):
        spine = add(document, "LINE", pvec=surface["pvec"], direction=surface["axis"])
        into_blend(document, surface, spine, 4.0)
    found, _ = figures(document)
    assert found.volume == pytest.approx((40 * 30 - (4 - math.pi) * 16) * 20, rel=1e-9)


def test_a_rolling_ball_along_a_circle() -> None:
    """A disc rounded at its rim: by the theorem of Pappus, of the fillet's cross section."""
    disc = build.cylinder(20, 10)
    rim = [e for e in edges_of(disc) if BRep_Tool.Pnt_s(_start(e)).Z() > 9 and _is_circle(e)]
    document = document_of(build.fillet(disc, 3, rim))
    (torus,) = of(document, "TORUS")
    spine = add(
        document, "CIRCLE", centre=torus["centre"], normal=torus["axis"], x_axis=torus["x_axis"],
        radius=torus["major_radius"],
    )  # fmt: skip
    into_blend(document, torus, spine, 3.0)
    found, _ = figures(document)
    section = 9 - math.pi * 9 / 4
    middle = 17 + (9 * 1.5 - (math.pi * 9 / 4) * (4 * 3 / (3 * math.pi))) / section
    assert found.volume == pytest.approx(math.pi * 400 * 10 - 2 * math.pi * middle * section, rel=1e-9)


def _start(edge):
    return TopExp.FirstVertex_s(edge)


def _is_circle(edge) -> bool:
    return type(BRep_Tool.Curve_s(edge, 0.0, 0.0)).__name__ == "Geom_Circle"


def test_a_rolling_ball_along_a_general_spine() -> None:
    """A tube along a spline in space: its volume is its section times the length of its spine (Pappus)."""
    plain = BCurve(3, ((0, 0, 0), (30, 0, 0), (40, 30, 10), (70, 40, 0)), (), (0.0, 1.0), (4, 4))
    spline = spline_in(plain)
    radius = 2.5
    way = gp_Vec()
    start = gp_Pnt()
    spline.D1(0.0, start, way)
    circle = gp_Circ(gp_Ax2(start, gp_Dir(way)), radius)
    wire = BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(circle).Edge()).Wire()
    disc = BRepBuilderAPI_MakeFace(wire, True).Face()
    path = BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(spline).Edge()).Wire()
    tube = BRepOffsetAPI_MakePipe(path, disc).Shape()
    document = document_of(tube)
    for surface in of(document, "B_SURFACE"):
        spine = add(document, "B_CURVE", nurbs=_nurbs(document, plain))
        into_blend(document, surface, spine, radius)
    found, remarks = figures(document)
    length = GCPnts_AbscissaPoint.Length_s(GeomAdaptor_Curve(spline), 1e-10)
    assert found.volume == pytest.approx(math.pi * radius**2 * length, rel=1e-6)
    assert any("rolling-ball blend" in remark for remark in remarks)


def _nurbs(document: Document, curve: BCurve) -> int:
    """The nodes of a B-curve's poles, put into a document."""
    make = NodeBuilder()
    add_nurbs_curve(make, curve)
    shift = max(document.nodes)
    for node in make.document(document.header).nodes.values():
        values = [
            (v + shift if v else 0) if f.letter == "p" else v
            for f, v in zip(node.type.fields, node.values(), strict=True)
        ]
        document.nodes[node.index + shift] = Node(node.type, node.index + shift, values)
    return next(n.index for n in of(document, "NURBS_CURVE") if n.index > shift)


# --- offset, swept, spun ----------------------------------------------------------------------


@pytest.mark.parametrize("flipped", [False, True])
def test_an_offset_of_a_cylinder(flipped: bool) -> None:
    document = document_of(SHAPES["cylinder"])
    (side,) = of(document, "CYLINDER")
    inner = add(
        document, "CYLINDER", pvec=side["pvec"], axis=side["axis"], x_axis=side["x_axis"], radius=0.003,
        sense="-" if flipped else "+",
    )  # fmt: skip
    made = replace_node(
        document, side, "OFFSET_SURF", check="V", true_offset="F", surface=inner,
        offset=-0.002 if flipped else 0.002, sense="-" if flipped else "+",
    )  # fmt: skip
    use(document, made.index, inner)
    found, _ = figures(document)
    assert found.volume == pytest.approx(VOLUMES["cylinder"], rel=1e-9)


def test_an_offset_of_a_spline_surface() -> None:
    """A spline side moved in by its offset: the prism is as large as the one with the curve moved."""
    document = document_of(SHAPES["block"])
    top = next(p for p in of(document, "PLANE") if p["normal"] == (0.0, 0.0, 1.0))
    poles = [(x, y, 15.0) for x in (-100.0, 100.0) for y in (-100.0, 100.0)]
    flat = add(document, "B_SURFACE", nurbs=_bilinear(document, poles))
    made = replace_node(document, top, "OFFSET_SURF", check="V", surface=flat, offset=0.005)
    use(document, made.index, flat)
    found, _ = figures(document)
    assert found.volume == pytest.approx(VOLUMES["block"], rel=1e-9)


def _bilinear(document: Document, poles: list[tuple[float, float, float]]) -> int:
    knots = [add(document, "KNOT_SET", knots=[0.0, 1.0]) for _ in range(2)]
    mults = [add(document, "KNOT_MULT", mult=[2, 2]) for _ in range(2)]
    flat = [v for pole in poles for v in metres(pole)]
    return add(
        document, "NURBS_SURF", u_degree=1, v_degree=1, n_u_vertices=2, n_v_vertices=2, n_u_knots=2,
        n_v_knots=2, u_knot_type=1, v_knot_type=1, surface_form=1, vertex_dim=3, u_knots=knots[0],
        v_knots=knots[1], u_knot_mult=mults[0], v_knot_mult=mults[1],
        bspline_vertices=add(document, "BSPLINE_VERTICES", vertices=flat),
    )  # fmt: skip


def test_a_swept_circle_and_a_swept_spline() -> None:
    document = document_of(SHAPES["cylinder"])
    (side,) = of(document, "CYLINDER")
    section = add(
        document,
        "CIRCLE",
        centre=side["pvec"],
        normal=side["axis"],
        x_axis=side["x_axis"],
        radius=side["radius"],
    )
    made = replace_node(document, side, "SWEPT_SURF", section=section, sweep=side["axis"], scale=None)
    use(document, made.index, section)
    assert figures(document)[0].volume == pytest.approx(VOLUMES["cylinder"], rel=1e-9)

    document = document_of(SHAPES["spline prism"])
    before = measure(SHAPES["spline prism"])
    (side,) = of(document, "B_SURFACE")
    edge = next(
        e
        for e in edges_of(SHAPES["spline prism"])
        if "BSpline" in type(BRep_Tool.Curve_s(e, 0.0, 0.0)).__name__
    )
    plain = curve_of(BRep_Tool.Curve_s(edge, 0.0, 0.0), *BRep_Tool.Range_s(edge))
    section = add(document, "B_CURVE", nurbs=_nurbs(document, plain))
    made = replace_node(document, side, "SWEPT_SURF", section=section, sweep=(0.0, 0.0, 1.0), scale=None)
    use(document, made.index, section)
    assert figures(document)[0].volume == pytest.approx(before.volume, rel=1e-9)


def test_a_spun_line_and_a_spun_spline() -> None:
    document = document_of(SHAPES["frustum"])
    (side,) = of(document, "CONE")
    slope = (-0.3, 0.0, 1.0)
    size = math.hypot(*slope)
    profile = add(document, "LINE", pvec=(0.005, 0.0, 0.0), direction=tuple(v / size for v in slope))
    made = replace_node(
        document, side, "SPUN_SURF", profile=profile, base=(0.0, 0.0, 0.0), axis=(0.0, 0.0, 1.0),
        x_axis=(1.0, 0.0, 0.0),
    )  # fmt: skip
    use(document, made.index, profile)
    assert figures(document)[0].volume == pytest.approx(VOLUMES["frustum"], rel=1e-9)

    # a paraboloid of revolution, r^2 = 100 - 8 z, cut at z = 0 and z = 10: volume by its integral
    turned = build.turned([(0, 0), (10, 0), (math.sqrt(20), 10), (0, 10)])
    document = document_of(turned)
    (side,) = of(document, "CONE")
    low, high = 10.0, math.sqrt(20.0)
    middle = (low + high) / 2
    poles = ((low, 0, 0), (middle, 0, (100 - low * high) / 8), (high, 0, 10))
    parabola = BCurve(2, poles, (), (0.0, 1.0), (3, 3))
    profile = add(document, "B_CURVE", nurbs=_nurbs(document, parabola))
    made = replace_node(
        document, side, "SPUN_SURF", profile=profile, base=(0.0, 0.0, 0.0), axis=(0.0, 0.0, 1.0),
        x_axis=(1.0, 0.0, 0.0),
    )  # fmt: skip
    use(document, made.index, profile)
    assert figures(document)[0].volume == pytest.approx(
        math.pi * (100 * 10 - 4 * 100), rel=1e-6
    )  # the kernel's integral


# --- senses, schemas, instances ---------------------------------------------------------------


@pytest.mark.parametrize("name", ["block with hole", "stepped shaft", "cavity", "filleted block", "loft"])
def test_negative_senses_everywhere(name: str) -> None:
    document = document_of(SHAPES[name])
    for face in of(document, "FACE"):
        set_values(document.nodes[face["surface"]], sense="-")
        set_values(face, sense="-" if face["sense"] == "+" else "+")
    for edge in of(document, "EDGE"):
        curve = document.at(edge["curve"])
        set_values(curve, sense="-")
        fins = [f for f in of(document, "FIN") if f["edge"] == edge.index]
        for fin in fins:
            set_values(fin, sense="-" if fin["sense"] == "+" else "+")
        set_values(edge, fin=next(f.index for f in fins if f["sense"] == "+"))
    assert not audit(document)
    found, _ = figures(document)
    assert found.volume == pytest.approx(measure(SHAPES[name]).volume, rel=1e-9)


def test_a_body_under_an_edited_schema_with_user_fields() -> None:
    document = document_of(SHAPES["block with hole"])
    old = document.schema[29]
    point = NodeType(29, "POINT", (*old.fields, Field("weld_mark", "d"), Field("far", "p", 0, 29)))
    document.schema[29] = point
    for node in list(document.nodes.values()):
        if node.type.number == 29:
            document.nodes[node.index] = Node(point, node.index, [*node.values(), 7, 0])
        if document.nodes[node.index].type.has_user_fields:
            document.nodes[node.index].user = (node.index, -1)
    head = replace(document.header, key="SCH_3200000_32000_13006", user_fields=2, embedded=True)
    edited = Document(head, document.schema, document.nodes)
    script = "8 CCCCCCA9 weld_mark0 0 1 dA3 far29 0 Z"
    data = write_text(edited, edits=lambda number: script if number == 29 else "255 ")
    read = read_text(data)
    assert read.header.embedded and read.nodes[of(read, "POINT")[0].index]["weld_mark"] == 7
    assert of(read, "FACE")[0].user[1] == -1
    assert measure(made_from(data).bodies[0].shape).volume == pytest.approx(
        VOLUMES["block with hole"], rel=1e-9
    )


def test_a_mirrored_and_a_scaled_instance(tmp_path: Path, store_folder: str) -> None:
    """A wedge placed as it is, mirrored in x = 0 and twice as large."""
    wedge = build.prism((0, 0), (build.LineTo((30, 0)), build.LineTo((0, 10)), build.LineTo((0, 0))), 6)
    document = document_of(wedge)
    body = document.root.index
    shift = {1: max(document.nodes) + 1}
    nodes = {}
    for node in document.nodes.values():
        values = [
            _shifted(v, shift) if f.letter == "p" else v
            for f, v in zip(node.type.fields, node.values(), strict=True)
        ]
        index = _shifted(node.index, shift)
        nodes[index] = Node(node.type, index, values)
    document.nodes = nodes
    part = shift[body]
    make = NodeBuilder()
    make.new("ASSEMBLY", res_size=1e6, res_linear=1e-5, state=1, type=1)
    document.nodes = {1: next(iter(make.document(document.header).nodes.values())), **nodes}
    instances = []
    for matrix, moved, scale in (
        (None, None, 1.0),
        ([-1, 0, 0, 0, 1, 0, 0, 0, 1], (0.1, 0.0, 0.0), 1.0),
        ([0, -1, 0, 1, 0, 0, 0, 0, 1], (0.0, 0.05, 0.0), 2.0),
    ):
        at = add(document, "INSTANCE", type=1, part=part, assembly=1)
        if matrix is not None:
            turn = add(
                document, "TRANSFORM", owner=at, rotation_matrix=[float(v) for v in matrix],
                translation_vector=moved, scale=scale, perspective_vector=(0.0, 0.0, 0.0),
            )  # fmt: skip
            set_values(document.nodes[at], transform=turn)
        instances.append(at)
    for before, after in zip([0, *instances], [*instances, 0], strict=True):
        if before:
            set_values(document.nodes[before], next_in_part=after, next_of_part=after)
        if after:
            set_values(document.nodes[after], prev_in_part=before, prev_of_part=before)
    set_values(document.root, sub_instance=instances[0])
    set_values(document.nodes[part], ref_instance=instances[0])
    path = tmp_path / "wedges.x_t"
    path.write_bytes(write_text(document))

    model = receive(str(path), store_folder)
    facts = measure_all(model.blobs(), store_folder)
    placed = {}
    for place in model.walk():
        for body_ in model.product(place.product).bodies:
            fact = facts[body_.blob]
            centre = np.array(place.placement).reshape(4, 4) @ (*fact.centroid, 1.0)
            linear = np.array(place.placement).reshape(4, 4)[:3, :3]
            assert np.linalg.det(linear) == pytest.approx(1.0), "placements stay rigid"
            placed.setdefault(round(fact.volume), []).append(tuple(centre[:3].round(6)))
    assert sorted(placed) == [900, 7200]
    assert sorted(placed[900]) == [(10.0, 3.333333, 3.0), (90.0, 3.333333, 3.0)]
    assert placed[7200] == [(-6.666667, 120.0, 6.0)]
    assert any(note.code == "placed-mirrored" for note in model.notes)


def _shifted(pointer, shift: dict[int, int]):
    if isinstance(pointer, list):
        return [shift.get(p, p) for p in pointer]
    return shift.get(pointer, pointer)


def test_curves_on_surfaces_are_read_with_their_original(monkeypatch) -> None:
    monkeypatch.setattr(boundary_out, "EXACT", -1.0)
    document = document_of(SHAPES["cylinder"])
    fins = [f for face in body_in(document).boundary.faces for loop in face.loops for f in loop]
    kept = [f.curve.basis for f in fins if f.forward]
    assert all(isinstance(c, OnSurface) and c.original is not None for c in kept)

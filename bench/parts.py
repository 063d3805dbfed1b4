"""Models made for the benchmarks: a heavy single part and a large assembly."""

from __future__ import annotations

import math
import subprocess
import sys
from dataclasses import replace
from pathlib import Path

from OCP.BRep import BRep_Builder
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeSolid,
    BRepBuilderAPI_MakeWire,
)
from OCP.BRepLib import BRepLib
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.GC import GC_MakeArcOfCircle
from OCP.gp import gp_Pnt, gp_Vec
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS, TopoDS_Shape, TopoDS_Shell, TopoDS_Wire

from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.kernel.exchange.step_out import write_body
from gondrel.core.kernel.modelling.build import block, cut, cylinder
from gondrel.core.model import Body, BodyKind, Model, Occurrence, Product, Rgba
from gondrel.core.model.store import BlobStore

__all__ = ["assembly", "heavy_part", "hub", "make_assembly", "make_heavy_part", "shifted"]


LEVELS, LOBES = 73, 18


def _outline(radius: float, z: float) -> TopoDS_Wire:
    """A closed wavy outline of lines and arcs about the z axis."""
    maker = BRepBuilderAPI_MakeWire()

    def at(share: float, r: float) -> gp_Pnt:
        angle = 2 * math.pi * share / LOBES
        return gp_Pnt(r * math.cos(angle), r * math.sin(angle), z)

    for lobe in range(LOBES):
        inner, outer = radius - 3.0, radius
        corners = [at(lobe, inner), at(lobe + 0.2, outer), at(lobe + 0.6, outer), at(lobe + 0.8, inner)]
        arc = GC_MakeArcOfCircle(corners[1], at(lobe + 0.4, outer), corners[2]).Value()
        maker.Add(BRepBuilderAPI_MakeEdge(corners[0], corners[1]).Edge())
        maker.Add(BRepBuilderAPI_MakeEdge(arc).Edge())
        maker.Add(BRepBuilderAPI_MakeEdge(corners[2], corners[3]).Edge())
        floor = GC_MakeArcOfCircle(corners[3], at(lobe + 0.9, inner), at(lobe + 1, inner)).Value()
        maker.Add(BRepBuilderAPI_MakeEdge(floor).Edge())
    return maker.Wire()


def hub(radius: float, levels: int) -> TopoDS_Shape:
    """A stepped hub of lobed discs, turned smaller level by level.

    Like most machined parts it is of planes and cylinders, in faces of a few edges each.
    """
    sewing = BRep_Builder()
    shell = TopoDS_Shell()
    sewing.MakeShell(shell)
    below: TopoDS_Wire | None = None
    for level in range(levels):
        wire = _outline(radius - 2.4 * level, 3.0 * level)
        ring = BRepBuilderAPI_MakeFace(below or wire, True)
        if below is not None:
            ring.Add(TopoDS.Wire(wire.Reversed()))
        sewing.Add(shell, ring.Face() if below is not None else ring.Face().Reversed())
        sides = BRepPrimAPI_MakePrism(wire, gp_Vec(0, 0, 3.0))
        explorer = TopExp_Explorer(sides.Shape(), TopAbs_ShapeEnum.TopAbs_FACE)
        while explorer.More():
            sewing.Add(shell, explorer.Current().Reversed())
            explorer.Next()
        below = TopoDS.Wire(sides.LastShape())
    assert below is not None
    sewing.Add(shell, BRepBuilderAPI_MakeFace(below, True).Face())
    shell.Closed(True)
    solid = BRepBuilderAPI_MakeSolid(shell).Solid()
    BRepLib.OrientClosedSolid_s(solid)
    return solid


def heavy_part(megabytes: float = 9.0) -> bytes:
    """A part of so many MB as STEP: a hub of many discs."""
    levels = round(LEVELS * megabytes / 9.0)
    return write_body(hub(max(200.0, 2.4 * levels + 20.0), levels), "mm").data


def make_heavy_part(path: str, megabytes: float = 9.0) -> None:
    """Write the heavy part in a process of its own, which keeps the caller's small."""
    code = "import sys, parts; open(sys.argv[1], 'wb').write(parts.heavy_part(float(sys.argv[2])))"
    command = [sys.executable, "-c", code, path, str(megabytes)]
    subprocess.run(command, check=True, stdout=subprocess.DEVNULL, cwd=Path(__file__).parent)


def assembly(store: BlobStore, *, parts: int = 50, placed: int = 5000) -> Model:
    """Plates with a hole, all different, placed many times in groups of a hundred."""
    products = []
    for number in range(parts):
        shape = cut(
            block(12 + number % 7, 8 + number % 5, 3 + number % 3),
            cylinder(1.0 + 0.05 * number, 20, at=(6, 4, -5)),
        )
        key = store.put(shape_to_blob(shape))
        colour = Rgba(0.35 + 0.012 * number, 0.5, 0.75 - 0.01 * number)
        body = Body(f"b{number}", BodyKind.SOLID, f"Plate {number + 1}", key, colour)
        products.append(Product(f"p{number}", f"PL-{number + 1:03}", f"Plate {number + 1}", bodies=(body,)))
    groups = []
    for group in range(placed // 100):
        uses = tuple(
            Occurrence(
                f"o{group}-{i}", f"p{(group + i) % parts}", "", shifted(22.0 * (i % 10), 16.0 * (i // 10))
            )
            for i in range(100)
        )
        name = f"Tray {group + 1}"
        groups.append(Product(f"g{group}", f"TR-{group + 1:03}", name, occurrences=uses))
    top = Product("top", "RACK-1", "Rack")
    places = tuple(
        Occurrence(f"t{i}", g.id, f"Place {i + 1}", shifted(0, 0, 12.0 * i)) for i, g in enumerate(groups)
    )
    return Model((replace(top, occurrences=places), *groups, *products), ("top",))


def shifted(x: float, y: float, z: float = 0.0) -> tuple[float, ...]:
    """A placement: moved by so much, mm."""
    return (1, 0, 0, x, 0, 1, 0, y, 0, 0, 1, z, 0, 0, 0, 1)


def make_assembly(path: str, store_folder: str) -> None:
    """Write the large assembly as STEP AP242 in a process of its own."""
    code = (
        "import sys, parts\n"
        "from pathlib import Path\n"
        "from gondrel.core.formats.settings import SendSettings\n"
        "from gondrel.core.model.store import BlobStore\n"
        "from gondrel.core.service.receive import measure_all\n"
        "from gondrel.core.service.write import write_model\n"
        "store = BlobStore(Path(sys.argv[2]))\n"
        "model = parts.assembly(store)\n"
        "facts = measure_all(model.blobs(), sys.argv[2])\n"
        "data = write_model(model, 'step-ap242', SendSettings(), store, facts, name='rack.stp')\n"
        "Path(sys.argv[1]).write_bytes(data)\n"
    )
    subprocess.run(
        [sys.executable, "-c", code, path, store_folder],
        check=True,
        stdout=subprocess.DEVNULL,
        cwd=Path(__file__).parent,
    )

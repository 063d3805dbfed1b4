"""The paddle winding gear as a model: parts, structure, placements, looks and metadata."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.kernel.modelling.build import faces_where
from gondrel.core.model.body import Body, BodyKind, Rgba
from gondrel.core.model.product import Material, Metadatum, Occurrence, Placement, Product
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.demo import parts

__all__ = ["make_gear"]

_IRON = Material("Grey cast iron EN-GJL-250", 7200.0)
_STEEL = Material("Steel C45", 7850.0)
_ALLOY = Material("Steel 42CrMo4, hardened", 7830.0)
_BRONZE = Material("Bronze CuSn7Zn4Pb7-C", 8800.0)
_SHEET = Material("Polycarbonate", 1200.0)
_SHAFT_TURN = math.radians(3)
_SPINDLE_TURN = math.radians(6)
_RACK_SHIFT = -48 * _SHAFT_TURN

_CASTING, _MACHINED, _TURNED, _RACK = "#4d6a70", "#b9c0c4", "#a9b3bd", "#8f989e"
_BRASS, _GOLD, _DARK, _FLANK = "#b5803c", "#c8a24e", "#50575d", "#d9703a"


@dataclass(frozen=True, slots=True)
class _Part:
    number: str
    name: str
    revision: str
    make: Callable[[], Any]
    colour: str
    material: Material
    layer: str
    faces: tuple[tuple[str, float | None, str], ...] = ()
    metadata: tuple[tuple[str, str | int | float | bool], ...] = ()
    alpha: float = 1.0
    description: str = ""


_PARTS = {
    "base": _Part("PG-101", "Base plate", "A", parts.base_plate, _CASTING, _IRON, "Castings",
                  (("cylinder", 6.6, _MACHINED),), (("Pattern number", "M-2207"),)),
    "right": _Part("PG-102", "Side frame, right", "C", lambda: parts.side_frame(1), _CASTING, _IRON,
                   "Castings", (("cylinder", 26, _MACHINED), ("cylinder", 21, _MACHINED)),
                   (("Pattern number", "M-2208"), ("Pressure tested", False)),
                   description="Bearing frame with pawl pivot"),
    "left": _Part("PG-103", "Side frame, left", "C", lambda: parts.side_frame(-1), _CASTING, _IRON,
                  "Castings", (("cylinder", 26, _MACHINED), ("cylinder", 21, _MACHINED)),
                  (("Pattern number", "M-2209"),), description="Bearing frame"),
    "tie": _Part("PG-104", "Tie bar", "A", parts.tie_bar, _TURNED, _STEEL, "Turned"),
    "shaft": _Part("PG-201", "Pinion shaft", "B", parts.pinion_shaft, _TURNED, _ALLOY, "Turned",
                   (), (("Surface hardness HRC", 48), ("Straightness mm", 0.02))),
    "pinion": _Part("PG-202", "Rack pinion 12 T", "C", parts.rack_pinion, _GOLD, _ALLOY, "Gears",
                    (("bspline", None, _FLANK),),
                    (("Module mm", 8.0), ("Teeth", 12), ("Hardened", True))),
    "wheel": _Part("PG-203", "Spur wheel 40 T", "B", parts.spur_wheel, _GOLD, _STEEL, "Gears",
                   (), (("Module mm", 5.0), ("Teeth", 40), ("Hardened", False))),
    "spindle": _Part("PG-301", "Windlass spindle", "B", parts.windlass_spindle, _TURNED, _ALLOY,
                     "Turned"),
    "drive": _Part("PG-302", "Drive pinion 15 T", "B", parts.drive_pinion, _GOLD, _ALLOY, "Gears",
                   (("bspline", None, _FLANK),),
                   (("Module mm", 5.0), ("Teeth", 15), ("Hardened", True))),
    "crank": _Part("PG-303", "Windlass", "A", parts.crank, _DARK, _STEEL, "Hand parts",
                   (("cone", None, "#8a5a3a"),), (("Removable", True),)),
    "ratchet": _Part("PG-401", "Ratchet wheel 24 T", "A", parts.ratchet_wheel, "#7d8890", _ALLOY,
                     "Gears", (), (("Teeth", 24), ("Hardened", True))),
    "pawl": _Part("PG-402", "Pawl", "B", parts.pawl, "#a33f3a", _ALLOY, "Pawl", (),
                  (("Hardened", True),)),
    "pin": _Part("PG-403", "Pawl pin", "A", parts.pawl_pin, _TURNED, _STEEL, "Pawl"),
    "bush40": _Part("PG-501", "Plain bush \u00d840 \u00d7 28", "A", parts.bush_large, _BRASS, _BRONZE,
                    "Bushes", (), (("Supplier", "B\u00fcchsenwerk, stock"),)),
    "bush32": _Part("PG-502", "Plain bush \u00d832 \u00d7 28", "A", parts.bush_small, _BRASS, _BRONZE,
                    "Bushes"),
    "rack": _Part("PG-601", "Rack bar", "A", parts.rack, _RACK, _STEEL, "Gears", (),
                  (("Module mm", 8.0), ("Teeth", 24), ("Galvanised", False))),
    "roller": _Part("PG-602", "Guide roller", "A", parts.roller, _BRASS, _BRONZE, "Bushes"),
    "axle": _Part("PG-603", "Roller pin", "A", parts.roller_pin, _TURNED, _STEEL, "Turned"),
    "guard": _Part("PG-701", "Gear guard", "B", parts.guard, "#e3b23c", _SHEET, "Guards", (),
                   (("Thickness mm", 2.0),), 0.45),
    "key10": _Part("PG-801", "Feather key 10 \u00d7 8 \u00d7 24", "A",
                   lambda: parts.feather_key(10, 8, 24), _DARK, _STEEL, "Fasteners"),
    "key8": _Part("PG-802", "Feather key 8 \u00d7 7 \u00d7 28", "A",
                  lambda: parts.feather_key(8, 7, 28), _DARK, _STEEL, "Fasteners"),
    "key6": _Part("PG-803", "Feather key 6 \u00d7 6 \u00d7 14", "A",
                  lambda: parts.feather_key(6, 6, 14), _DARK, _STEEL, "Fasteners"),
    "screw": _Part("PG-811", "Hexagon screw M12 \u00d7 45", "A", parts.hex_screw, _DARK, _STEEL,
                   "Fasteners", (), (("Standard", "ISO 4017"), ("Property class", "8.8"))),
    "nut12": _Part("PG-812", "Hexagon nut M12", "A", parts.hex_nut, _DARK, _STEEL, "Fasteners", (),
                   (("Standard", "ISO 4032"),)),
    "nut16": _Part("PG-813", "Hexagon nut M16", "A", lambda: parts.hex_nut(24, 14.8, 8), _DARK,
                   _STEEL, "Fasteners", (), (("Standard", "ISO 4032"),)),
    "washer": _Part("PG-814", "Washer 12", "A", parts.washer, "#9aa3a8", _STEEL, "Fasteners", (),
                    (("Standard", "ISO 7089"),)),
}  # fmt: skip

Matrix = np.ndarray
_AXIAL = np.array([[0, 0, 1, 0], [1, 0, 0, 0], [0, 1, 0, 0], [0, 0, 0, 1]], float)
_UPRIGHT = np.array([[0, 0, -1, 0], [0, 1, 0, 0], [1, 0, 0, 0], [0, 0, 0, 1]], float)
_KEYED = np.array([[1, 0, 0, 0], [0, 0, 1, 0], [0, -1, 0, 0], [0, 0, 0, 1]], float)
_BACKWARD = np.diag([-1.0, 1.0, -1.0, 1.0])


def _shift(x: float, y: float, z: float) -> Matrix:
    matrix = np.eye(4)
    matrix[:3, 3] = (x, y, z)
    return matrix


def _turn_z(angle: float) -> Matrix:
    matrix = np.eye(4)
    matrix[:2, :2] = [[math.cos(angle), -math.sin(angle)], [math.sin(angle), math.cos(angle)]]
    return matrix


def _turn_x(angle: float) -> Matrix:
    matrix = np.eye(4)
    matrix[1:3, 1:3] = [[math.cos(angle), -math.sin(angle)], [math.sin(angle), math.cos(angle)]]
    return matrix


def _axial(x: float, at: tuple[float, float], turn: float = 0.0) -> Matrix:
    """A part whose axis is z laid along the machine's x axis."""
    placed: Matrix = _shift(x, *at) @ _AXIAL @ _turn_z(turn)
    return placed


def _key(x: float, at: tuple[float, float], depth: float, turn: float) -> Matrix:
    placed: Matrix = _shift(x, *at) @ _turn_x(turn) @ _shift(0, depth, 0) @ _KEYED
    return placed


class _Assembler:
    """Makes products and places them."""

    def __init__(self, store: BlobStore) -> None:
        self.store = store
        self.products: dict[str, Product] = {}
        self.serial = 0

    def part(self, key: str) -> str:
        if key in self.products:
            return key
        part = _PARTS[key]
        shape = part.make()
        faces: dict[int, Rgba] = {}
        for kind, radius, colour in part.faces:
            for index in faces_where(shape, kind, radius=radius):
                faces[index] = Rgba.from_hex(colour)
        body = Body(
            id=f"body-{key}",
            kind=BodyKind.SOLID,
            name=part.name,
            blob=self.store.put(shape_to_blob(shape)),
            colour=Rgba.from_hex(part.colour, part.alpha),
            face_colours=tuple(sorted(faces.items())),
            layers=(part.layer,),
        )
        self.products[key] = Product(
            id=key,
            number=part.number,
            name=part.name,
            revision=part.revision,
            description=part.description,
            material=part.material,
            metadata=tuple(Metadatum(k, v) for k, v in part.metadata),
            bodies=(body,),
        )
        return key

    def use(self, key: str, name: str, matrix: Matrix, colour: str = "") -> Occurrence:
        self.serial += 1
        placement: Placement = tuple(float(x) for x in matrix.ravel())
        override = Rgba.from_hex(colour) if colour else None
        return Occurrence(f"use-{self.serial}", key, name, placement, override)

    def assembly(
        self, key: str, number: str, name: str, revision: str, uses: Sequence[Occurrence],
        metadata: Sequence[tuple[str, str | int | float | bool]] = (), description: str = "",
    ) -> str:  # fmt: skip
        self.products[key] = Product(
            key, number, name, revision, description, None,
            tuple(Metadatum(k, v) for k, v in metadata), (), tuple(uses),
        )  # fmt: skip
        return key


def make_gear(store: BlobStore) -> Model:
    """Model the paddle winding gear. Bodies go into the store.

    Raises:
        KernelRefused: when the kernel can't make a part.
    """
    make = _Assembler(store)
    sets = [_bolt_set(make), _case_set(make), _shaft_set(make), _spindle_set(make), _pawl_set(make)]
    at = np.eye(4)
    uses = [make.use(key, make.products[key].name, at) for key in sets[1:]]
    rack_at = _shift(-8, -48, 200 + 2 * math.pi * 8 + _RACK_SHIFT) @ _UPRIGHT
    uses.append(make.use(make.part("rack"), "Rack bar", rack_at))
    roller_at = _axial(-28, parts.ROLLER)
    uses.append(make.use(make.part("roller"), "Guide roller", roller_at))
    uses.append(make.use(make.part("axle"), "Roller pin", _axial(0, parts.ROLLER)))
    make.assembly(
        "gear", "PG-000", "Paddle winding gear", "B", uses,
        (("Project", "Ostrey lock 4, upper gate"), ("Lift per turn mm", 40.2), ("Gates", 2),
         ("Approved for casting", True)),
        "Rack and pinion gear for a ground paddle",
    )  # fmt: skip
    order = ["gear", *sets, *(k for k in make.products if k not in ("gear", *sets))]
    model = Model(products=tuple(make.products[k] for k in order), roots=("gear",))
    return model


def _bolt_set(make: _Assembler) -> str:
    stack = 12 + 16 + 2.5
    uses = [
        make.use(make.part("screw"), "Screw", np.eye(4)),
        make.use(make.part("washer"), "Washer, head side", _shift(0, 0, -2.5)),
        make.use(make.part("washer"), "Washer, nut side", _shift(0, 0, -stack - 2.5)),
        make.use(make.part("nut12"), "Nut", _shift(0, 0, -stack - 2.5 - 10.8)),
    ]
    return make.assembly("bolts", "PG-810", "Bolt set M12", "A", uses, (("Torque Nm", 79.0),))


def _case_set(make: _Assembler) -> str:
    uses = [
        make.use(make.part("base"), "Base plate", _shift(0, 0, -16)),
        make.use(make.part("right"), "Side frame, right", _axial(63, (0, 0))),
        make.use(make.part("left"), "Side frame, left", _axial(-63, (0, 0))),
    ]
    for number, hole in enumerate(parts.FRAME_HOLES, 1):
        uses.append(make.use(make.part("tie"), f"Tie bar {number}", _axial(0, hole)))
        uses.append(make.use(make.part("nut16"), f"Nut {number} right", _axial(77, hole)))
        uses.append(make.use(make.part("nut16"), f"Nut {number} left", _axial(-91.8, hole)))
    for number, (x, y) in enumerate(parts.BOLT_HOLES, 1):
        uses.append(make.use("bolts", f"Bolt set {number}", _shift(x, y, 14.5)))
    uses.append(make.use(make.part("guard"), "Gear guard", _axial(8, parts.SHAFT)))
    return make.assembly("case", "PG-100", "Gear case set", "C", uses, (("Painted", True),))


def _bushes(make: _Assembler, key: str, at: tuple[float, float]) -> list[Occurrence]:
    left = _shift(-59, *at) @ _AXIAL @ _BACKWARD
    return [
        make.use(make.part(key), "Bush, right", _axial(59, at)),
        make.use(make.part(key), "Bush, left", left),
    ]


def _shaft_set(make: _Assembler) -> str:
    at, turn = parts.SHAFT, _SHAFT_TURN
    uses = [
        make.use(make.part("shaft"), "Pinion shaft", _axial(0, at, turn)),
        make.use(make.part("pinion"), "Rack pinion", _axial(-50, at, turn)),
        make.use(make.part("wheel"), "Spur wheel", _axial(14, at, turn)),
        make.use(make.part("key10"), "Key, pinion", _key(-25, at, 17, turn)),
        make.use(make.part("key10"), "Key, wheel", _key(27, at, 17, turn)),
        *_bushes(make, "bush40", at),
    ]
    return make.assembly("shafts", "PG-200", "Shaft set", "B", uses)


def _spindle_set(make: _Assembler) -> str:
    at, turn = parts.SPINDLE, _SPINDLE_TURN
    uses = [
        make.use(make.part("spindle"), "Windlass spindle", _axial(0, at, turn)),
        make.use(make.part("drive"), "Drive pinion", _axial(12, at, turn)),
        make.use(make.part("key8"), "Key, pinion", _key(27, at, 14, turn)),
        make.use(make.part("ratchet"), "Ratchet wheel", _axial(89, at, turn)),
        make.use(make.part("key6"), "Key, ratchet", _key(96.5, at, 13, turn)),
        *_bushes(make, "bush32", at),
        make.use(make.part("crank"), "Windlass", _axial(115, at, turn - math.pi / 2)),
    ]
    return make.assembly("spindles", "PG-300", "Spindle set", "B", uses)


def _pawl_set(make: _Assembler) -> str:
    at = parts.PAWL_PIVOT
    uses = [
        make.use(make.part("pawl"), "Pawl", _axial(90, at)),
        make.use(make.part("pin"), "Pawl pin", _axial(63, at), "#2f6f4f"),
    ]
    return make.assembly("pawls", "PG-400", "Pawl set", "A", uses)

"""Models with one known defect each, for trying checks and mends on, and the same models sound.

Each is written as a file of the form that can hold the defect. The manifest says what was planted,
where (mm) and how big; those figures come from how the model was made, not from the checks.
"""

from __future__ import annotations

import json
import sys
from collections.abc import Callable, Iterator, Sequence
from dataclasses import asdict, dataclass, replace
from math import cos, pi, sin
from pathlib import Path

from gondrel.core.formats.settings import SendSettings
from gondrel.core.kernel.base.shape import Shape, faces_of, kind_of, shape_to_blob, shell_of
from gondrel.core.kernel.examples import broken, flawed
from gondrel.core.kernel.modelling.build import block, cut, cylinder, sphere
from gondrel.core.model import Body, Model, Occurrence, Product
from gondrel.core.model.store import BlobStore, write_whole
from gondrel.core.service.receive import measure_all
from gondrel.core.service.write import write_model
from gondrel.core.work.files import private_folder

__all__ = ["MANIFEST", "Planted", "make_planted"]

MANIFEST = "planted.json"

Point = tuple[float, float, float]
Maker = Callable[[BlobStore], Model]


@dataclass(frozen=True, slots=True)
class Planted:
    """One planted defect.

    Args:
        code: of the check that must find it; file, sound: names of both files.
        what: in words; at: where, mm, None for what has no place in space; size: in the check's unit.
    """

    name: str
    code: str
    file: str
    sound: str
    what: str
    at: Point | None
    size: float | None


@dataclass(frozen=True, slots=True)
class _Seed:
    name: str
    code: str
    form: str
    what: str
    at: Point | None
    size: float | None
    bad: Maker
    good: Maker


def make_planted(folder: Path, store_folder: str) -> list[Planted]:
    """Write all of them and the manifest; the entries of the manifest.

    Raises:
        KernelRefused: when the kernel can't make a model. WriteFailed: when the disk refuses.
    """
    folder.mkdir(parents=True, exist_ok=True)
    store = BlobStore(Path(store_folder))
    made = []
    for seed in _seeds():
        names = []
        for kind, maker in (("planted", seed.bad), ("sound", seed.good)):
            name = f"{seed.name}-{kind}.{_ENDING[seed.form]}"
            model = maker(store)
            facts = measure_all(model.blobs(), store_folder)
            data = write_model(model, seed.form, SendSettings(), store, facts, name=name)
            write_whole(folder / name, data)
            names.append(name)
        made.append(Planted(seed.name, seed.code, names[0], names[1], seed.what, seed.at, seed.size))
    manifest = json.dumps([asdict(p) for p in made], indent=1)
    write_whole(folder / MANIFEST, manifest.encode())
    return made


_ENDING = {"step-ap242": "stp", "iges-solid": "igs", "iges-surface": "igs", "xt-text": "x_t"}

_STEP, _SOLID, _SURFACE, _XT = _ENDING


def _part(*shapes: Callable[[], Shape]) -> Maker:
    """A model of one part with the shapes as its bodies."""

    def make(store: BlobStore) -> Model:
        return Model((_product(store, "plate", "P-100", "Plate", *shapes),), ("plate",))

    return make


def _product(store: BlobStore, key: str, number: str, name: str, *shapes: Callable[[], Shape]) -> Product:
    made = [shape() for shape in shapes]
    bodies = tuple(
        Body(f"{key}-{i}", kind_of(shape), f"{name} {i + 1}", store.put(shape_to_blob(shape)))
        for i, shape in enumerate(made)
    )
    return Product(key, number, name, bodies=bodies)


def _block() -> Shape:
    return block(10, 20, 30)


def _open(faces: int) -> list[Shape]:
    return list(faces_of(_block()))[:faces]


def _ledge(width: float) -> Shape:
    return cut(_block(), block(1, 20, 15, at=(10 - width, 0, 15)))


def _wire(x: float) -> Callable[[], Shape]:
    return lambda: broken.straight_wire((x, 0, 0), (x, 0, 9))


def _closed_shell_as_sheet() -> Shape:
    return shell_of(list(faces_of(cylinder(5, 20)))[:1])


def _bodies() -> Iterator[_Seed]:
    sound = _part(_block)
    quarter = (8 * cos(pi / 4), 8 * sin(pi / 4), 10.0)
    smooth = _part(lambda: broken.spline_sheet(3.0))
    tube = _part(_closed_shell_as_sheet)
    gentle = _part(flawed.smooth_curve)
    rows: list[tuple[str, str, str, str, Point | None, float | None, Callable[[], Shape], Maker]] = [
        ("plane-moved", "G201", _STEP, "top plane 0.05 mm above its edges", (0, 0, 10), 0.05,
         lambda: broken.shifted_plane(0.05), sound),
        ("plane-moved-iges", "G201", _SURFACE, "top plane 0.3 mm above its edges", (0, 0, 10), 0.3,
         lambda: broken.shifted_plane(0.3), tube),
        ("vertex-moved", "G202", _STEP, "a vertex 0.07 mm below its edges", (0, 0, -0.07), 0.07,
         lambda: broken.moved_vertex(0.07), sound),
        ("vertex-moved-xt", "G202", _XT, "a vertex 0.04 mm below its edges", (0, 0, -0.04), 0.04,
         lambda: broken.moved_vertex(0.04), sound),
        ("wide-tolerance", "G203", _XT, "a vertex true to 0.2 mm only", (0, 0, 30), 0.2,
         lambda: broken.wide_tolerance(_block(), 0.2), sound),
        ("short-edge", "G301", _STEP, "a ledge with ends of 0.004 mm", (9.998, 0, 15), 0.004,
         lambda: _ledge(0.004), sound),
        ("sliver", "G302", _XT, "a ledge 0.006 mm wide", (9.997, 10, 15), 0.006,
         lambda: _ledge(0.006), sound),
        ("far-away", "G303", _STEP, "a block 600 m from the origin", (600_005, 10, 15), 600_010,
         lambda: block(10, 20, 30, at=(600_000, 0, 0)), sound),
        ("crumb", "G304", _STEP, "a block of 0.006 mm", (0.002, 0.003, 0.0025), 0.006,
         lambda: block(0.004, 0.006, 0.005), sound),
        ("kink", "G401", _STEP, "a curve with a right angle inside", (10, 0, 0), 90.0,
         broken.kinked_wire, smooth),
        ("high-degree", "G402", _STEP, "a curve of degree 20", (10, 0.5, 0), 20.0,
         broken.heavy_wire, smooth),
        ("high-degree-iges", "G402", _SURFACE, "a curve of degree 20", (10, 0.5, 0), 20.0,
         broken.heavy_wire, smooth),
        ("close-knots", "G403", _XT, "two knots 1e-8 of the range apart", None, 1e-8,
         broken.close_knots_wire, smooth),
        ("plane-as-spline", "G404", _SURFACE, "a plane of splines", (25, 25, 0), None,
         lambda: broken.spline_sheet(0.0), smooth),
        ("cylinder-as-spline", "G405", _STEP, "a quarter of a cylinder of splines", quarter, None,
         lambda: broken.cylinder_as_spline(8.0, 20.0), smooth),
        ("face-missing", "T101", _STEP, "a solid without its top", (0, 10, 30), 60.0,
         lambda: broken.solid_of(_open(5)), sound),
        ("face-missing-iges", "T101", _SOLID, "a solid without its top", (0, 10, 30), 60.0,
         lambda: broken.solid_of(_open(5)), sound),
        ("rim", "T102", _XT, "five faces of a block, open at the top", (0, 10, 30), 60.0,
         lambda: shell_of(_open(5)), tube),
        ("rim-iges", "T102", _SURFACE, "five faces of a block, open at the top", (0, 10, 30), 60.0,
         lambda: shell_of(_open(5)), tube),
        ("fin", "T103", _STEP, "a third face on an edge", (0, 0, 15), 3.0,
         lambda: broken.finned(_block()), sound),
        ("inside-out", "T104", _STEP, "material outside", None, -6000.0,
         lambda: broken.inside_out(_block()), sound),
        ("turned", "T105", _SOLID, "one face looks inwards", (0, 0, 15), None, _turned, sound),
        ("loop-open", "T106", _STEP, "an edge missing from a loop", (0, 15, 5), None,
         broken.unsound_face, sound),
        ("doubled-face", "T107", _STEP, "a face twice", (0, 10, 15), 600.0, _doubled, sound),
        ("loop-crossing", "T108", _STEP, "a loop like a bow tie", None, None, flawed.bow_tie, sound),
        ("pinched", "T110", _STEP, "two blocks that share a corner", (10, 20, 30), 2.0,
         flawed.pinched, sound),
        ("thin-wall", "T111", _STEP, "a cavity 0.002 mm below the face", None, 0.002,
         lambda: flawed.touching_cavity(0.002), _part(lambda: flawed.touching_cavity(1.0))),
        ("edge-short-of-end", "G204", _STEP, "an edge ends 0.06 mm early", None, 0.06,
         lambda: flawed.edge_too_short_for_its_end(0.06), sound),
        ("faces-apart", "G205", _STEP, "top plane 0.05 mm above the sides", (0, 0, 10), 0.05,
         lambda: broken.shifted_plane(0.05), sound),
        ("narrow-land", "G305", _STEP, "a hole 0.004 mm from a side", (0, 10, 0), 0.004,
         lambda: flawed.narrow_land(0.004), _part(lambda: flawed.narrow_land(1.0))),
        ("low-step", "G306", _XT, "a step of 0.006 mm", (9.997, 10, 15), 0.006,
         lambda: flawed.with_ledge(0.006), _part(lambda: flawed.with_ledge(1.0))),
        ("halves", "G406", _STEP, "faces in two halves", (10, 0, 15), None, flawed.split_block, sound),
        ("curve-crossing", "G407", _STEP, "a curve with a loop, symmetric about x = 10", None, None,
         flawed.crossing_curve, gentle),
        ("surface-crossing", "G408", _STEP, "a surface that crosses itself", None, None,
         flawed.crossing_surface, smooth),
        ("curve-uneven", "G409", _SURFACE, "a curve run through unevenly", None, None,
         flawed.uneven_curve, gentle),
        ("folded", "G410", _STEP, "a surface that folds back", None, None, flawed.folded_surface, smooth),
        ("faceted", "G411", _STEP, "a ball of plane triangles", None, None,
         lambda: flawed.faceted_ball(10.0), _part(lambda: sphere(10.0))),
        ("thread", "G501", _STEP, "a helix of 1.5 mm pitch", None, 1.5,
         lambda: flawed.helix_on(10.0, 1.5, 4.0), smooth),
        ("thread-hole", "G502", _XT, "a hole of 6.8 mm", None, 6.8,
         lambda: _bored(6.8), _part(lambda: _bored(6.9))),
    ]  # fmt: skip
    for name, code, form, what, at, size, bad, good in rows:
        yield _Seed(name, code, form, what, at, size, _part(bad), good)


def _bored(diameter: float) -> Shape:
    return cut(block(20, 20, 20), cylinder(diameter / 2, 30, at=(10, 10, -5)))


def _turned() -> Shape:
    first, *others = faces_of(_block())
    return broken.solid_of([first.Reversed(), *others])


def _doubled() -> Shape:
    faces = list(faces_of(_block()))
    return broken.solid_of([*faces, faces_of(_block())[0]])


def _at(x: float, mirror: bool = False) -> tuple[float, ...]:
    return (-1 if mirror else 1, 0, 0, x, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1)


def _pair(change: Callable[[Model], Model] = lambda model: model) -> Maker:
    """A plate and a pin, apart, in an assembly; then changed."""

    def make(store: BlobStore) -> Model:
        plate = _product(store, "plate", "P-100", "Plate", _block)
        pin = _product(store, "pin", "P-200", "Pin", lambda: cylinder(3, 20))
        uses = (
            Occurrence("o1", "plate", "Plate 1", _at(0)),
            Occurrence("o2", "pin", "Pin 1", _at(40)),
        )
        return change(Model((Product("top", "P-1", "Set", occurrences=uses), plate, pin), ("top",)))

    return make


def _with_pin(**fields: object) -> Callable[[Model], Model]:
    def change(model: Model) -> Model:
        top, plate, pin = model.products
        return replace(model, products=(top, plate, replace(pin, **fields)))  # type: ignore[arg-type]

    return change


def _with_use(*uses: Occurrence) -> Callable[[Model], Model]:
    def change(model: Model) -> Model:
        top, *others = model.products
        return replace(model, products=(replace(top, occurrences=(*top.occurrences, *uses)), *others))

    return change


def _same_body(model: Model) -> Model:
    top, plate, pin = model.products
    twin = replace(pin.bodies[0], id="twin", blob=plate.bodies[0].blob)
    return replace(model, products=(top, plate, replace(pin, bodies=(twin,))))


def _structure() -> Iterator[_Seed]:
    sound = _pair()
    two = _part(_block, lambda: block(10, 20, 30, at=(50, 0, 0)))
    rows: list[tuple[str, str, str, str, Point | None, float | None, Maker, Maker]] = [
        ("empty-product", "A501", _STEP, "a pin without a body", None, None,
         _pair(_with_pin(bodies=())), sound),
        ("same-body", "A502", _STEP, "a pin with the plate's body", None, None, _pair(_same_body), sound),
        ("mirrored", "A503", _SOLID, "a pin placed mirrored", None, None,
         _pair(_with_use(Occurrence("o3", "pin", "Pin 2", _at(80, True)))), sound),
        ("placed-twice", "A504", _STEP, "a pin placed twice in one place", None, None,
         _pair(_with_use(Occurrence("o3", "pin", "Pin 2", _at(40)))), sound),
        ("loose-sheets", "A506", _SURFACE, "two sheets side by side", None, None,
         _part(lambda: shell_of(_open(1)), _quarter), _part(_quarter)),
        ("left-over", "A507", _STEP, "a line beside a solid", None, None,
         _part(_block, _wire(30)), _part(_block)),
        ("overlap", "A508", _STEP, "two blocks that share 4 x 20 x 30 mm", (8, 10, 15), 2400.0,
         _part(_block, lambda: block(10, 20, 30, at=(6, 0, 0))), two),
        ("inside", "A509", _XT, "a block within a block", (5, 10, 15), 8.0,
         _part(_block, lambda: block(2, 2, 2, at=(4, 9, 14))), two),
        ("same-solid", "A510", _SOLID, "a block twice in one place", (5, 10, 15), 6000.0,
         _part(_block, _block), two),
        ("no-name", "M601", _STEP, "a pin without a name", None, None, _pair(_with_pin(name="")), sound),
        ("same-number", "M602", _STEP, "a pin with the plate's number", None, None,
         _pair(_with_pin(number="P-100")), sound),
        ("same-name", "M604", _STEP, "a pin with the plate's name", None, None,
         _pair(_with_pin(name="Plate")), sound),
        ("blank", "M605", _STEP, "a number with a blank behind it", None, None,
         _pair(_with_pin(number="P-200 ")), sound),
        ("wrong-unit", "A512", _STEP, "a plate of 3 diameters in inches, called mm", None, 25.4,
         _part(lambda: _holed(1 / 25.4)), _part(lambda: _holed(1.0))),
        ("far-loose", "A513", _STEP, "a pin 9 m away", None, None,
         _pair(_with_use(Occurrence("o3", "pin", "Pin 2", _at(9000)))), sound),
        ("letters", "M603", _STEP, "a name with letters beyond ASCII", None, None,
         _pair(_with_pin(name="Stift \u00d86")), sound),
    ]  # fmt: skip
    for row in rows:
        yield _Seed(*row)


def _holed(size: float) -> Shape:
    plate = block(120 * size, 80 * size, 10 * size)
    for number, diameter in enumerate((12.7, 25.4, 19.05, 9.525)):
        at = ((20 + 25 * number) * size, 40 * size, -5 * size)
        plate = cut(plate, cylinder(diameter * size / 2, 20 * size, at=at))
    return plate


def _quarter() -> Shape:
    return broken.cylinder_as_spline(8.0, 20.0)


def _seeds() -> Iterator[_Seed]:
    yield from _bodies()
    yield from _structure()


def main(arguments: Sequence[str]) -> int:
    """Write them into a folder given on the command line."""
    if len(arguments) != 1:
        print("usage: python -m gondrel.demo.planted FOLDER", file=sys.stderr)
        return 2
    with private_folder() as store_folder:
        for planted in make_planted(Path(arguments[0]), str(store_folder)):
            print(f"{planted.code}  {planted.file:32} {planted.what}")
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))

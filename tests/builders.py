"""Small models made on purpose."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from gondrel.core.formats.settings import SendSettings
from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.kernel.modelling.build import block, cut, cylinder
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
from gondrel.core.model.appearance import BACK, REFLECTANCE, Appearance
from gondrel.core.model.particulars import KINDS, Particular
from gondrel.core.model.product import Reference
from gondrel.core.model.store import BlobStore
from gondrel.core.service.receive import measure_all
from gondrel.core.service.write import write_model

RED, BLUE, CLEAR = Rgba(1.0, 0.0, 0.0), Rgba(0.0, 0.0, 1.0), Rgba(0.2, 0.6, 0.4, 0.5)


def shifted(x: float, y: float = 0.0, z: float = 0.0) -> tuple[float, ...]:
    return (1, 0, 0, x, 0, 1, 0, y, 0, 0, 1, z, 0, 0, 0, 1)


def small_assembly(store: BlobStore) -> Model:
    """A plate with a hole and two pins in an assembly that has a body of its own."""
    plate = cut(block(60, 40, 10), cylinder(6, 30, at=(20, 20, -5)))
    pin = cylinder(6, 25)
    own = block(5, 5, 5, at=(70, 0, 0))
    keys = [store.put(shape_to_blob(shape)) for shape in (plate, pin, own)]
    plate_body = Body(
        "b-plate", BodyKind.SOLID, "Platte", keys[0], RED, ((0, BLUE), (6, CLEAR)), ("A", "B")
    )
    pin_body = Body("b-pin", BodyKind.SOLID, "Stift \u00d812", keys[1], None, ((0, RED),))
    own_body = Body("b-own", BodyKind.SOLID, "L\u00f6tpunkt", keys[2], CLEAR, (), ("C",))
    facts = (
        Metadatum("Text", "it's \\ \u65e5\u672c"),
        Metadatum("Count", 7),
        Metadatum("Weight", 0.125),
        Metadatum("Checked", True),
    )
    products = (
        Product("top", "T-1", "Top", "C", "the whole", None, facts, (own_body,),
                (Occurrence("o1", "plate", "plate", shifted(0)),
                 Occurrence("o2", "pin", "pin left", shifted(20, 20, 3), BLUE, False,
                            (Metadatum("Position", "12"),)),
                 Occurrence("o3", "pin", "pin right", shifted(90, 20, 3)))),
        Product("plate", "P-2", "Plate", "A", "", Material("Steel S235", 7850.0), (), (plate_body,)),
        Product("pin", "P-3", "Pin", "B", "turned", Material("Bronze"), (), (pin_body,)),
    )  # fmt: skip
    return Model(products, ("top",))


def particular(kind: str, *values: str, of: str = "") -> Particular:
    """A particular with the values its kind begins with."""
    missing = len(KINDS[kind].fields) - len(values)
    return Particular(kind, (*values, *[""] * missing), of)


def rich_assembly(store: BlobStore) -> Model:
    """The small assembly with everything said of it that a model can hold."""
    model = small_assembly(store)
    top, plate, pin = model.products
    person = ("7", "Doe", "Jo", "", "", "", "o", "Works", "")
    body = replace(
        plate.bodies[0],
        hidden=True,
        metadata=(Metadatum("finish", 1.5, "length", "mm"), Metadatum("note", "ground")),
        face_names=((0, "top"), (3, "bore")),
        face_layers=((2, "F"),),
        face_metadata=((3, Metadatum("hardness", 58.0, "ratio")), (3, Metadatum("fit", "H7"))),
        appearance=(Appearance(BACK, "#102030"), Appearance(REFLECTANCE, "ambient 0.2, diffuse 0.8")),
        face_appearance=(
            (
                0,
                Appearance(
                    REFLECTANCE,
                    "ambient 0.1, diffuse 0.7, specular 0.5, exponent 10, specular colour #ffffff",
                ),
            ),
            (2, Appearance(BACK, "#405060")),
        ),
        edge_colours=((1, BLUE), (4, RED)),
    )
    said = (
        particular("alias", "OLD-1", "alias", of="product"),
        particular("alias", "OLD-2", "alias", "an older one", of="revision"),
        particular("number at a source", "S-9", "order", "", "supplier", of="product"),
        particular("further name", "Platte 2", of="definition"),
        particular("category", "raw", "of bar", of="product"),
        particular("class", "bearing", "", "class", of="product"),
        particular("group", "cast", of="definition"),
        particular("document", "D-1", "Sheet", "", "drawing", of="definition"),
        particular("person", "creator", *person, of="definition"),
        particular("organisation", "owner", "o", "Works", of="product"),
        particular("date", "created", "2020", "1", "2", of="definition"),
        particular(
            "moment", "released", "2020", "1", "2", "3", "4", "5.0", "0", "", "AHEAD", of="revision"
        ),
        particular(
            "approval",
            "approved",
            "release",
            "approver",
            *person,
            "2020",
            "3",
            "4",
            "5",
            "",
            "",
            "0",
            "",
            "AHEAD",
            of="revision",
        ),
        particular("security class", "secret", "why", "level", of="revision"),
        particular("certification", "3.1", "heat", "mill", of="product"),
        particular("contract", "c", "p", "frame", of="product"),
        particular("effectivity", "e", "100", "200", of="definition"),
        particular("dated effectivity", "d", "2020", "1", "2", of="definition"),
        particular("dated effectivity", "d", "2021", "3", "4", "2022", "5", "6", of="revision"),
        particular("person", "classification_officer", *person, of="security class"),
        particular("date", "classified", "2020", "1", "2", of="security class"),
        particular("definition id", "D7"),
        particular("definition description", "as cast"),
        particular("revision description", "wider"),
        particular("make or buy", "bought"),
    )
    references = (
        Reference("system", "CS", (1, 0, 0, 5, 0, 0, -1, 6, 0, 1, 0, 7, 0, 0, 0, 1)),
        Reference("axis", "A", shifted(1, 2, 3)),
        Reference("plane", "PL", shifted(0, 0, 3)),
        Reference("point", "PT", shifted(9, 8, 7)),
    )
    material = Material(
        "Steel S235", 7850.0, "plain", (Metadatum("Young modulus", 210.0, "pressure", "GPa"),)
    )
    measured = (
        Metadatum("travel", 2.5, "length", "inch"),
        Metadatum("load", 3.0, "force", "kN"),
        Metadatum("weight per length", 7.8, "ratio", "kg.m-1"),
        Metadatum("share", 0.5, "ratio"),
        Metadatum("made on", "2020-01-02", "date"),
    )
    plate = replace(
        plate, bodies=(body,), particulars=said, references=references, metadata=measured,
        material=material,
    )  # fmt: skip
    one, two, three = top.occurrences
    one = replace(one, own_colours=(("b-plate", 1, BLUE), ("b-plate", 4, RED)))
    two = replace(
        two,
        hidden=True,
        layers=("A",),
        particulars=(
            particular("reference designator", "R1"),
            particular("component description", "the left one"),
            particular("component id", "N-7"),
        ),
    )
    top = replace(top, occurrences=(one, two, replace(three, hidden=True)))
    layers = (particular("layer description", "A", "first"), particular("hidden layer", "B"))
    return replace(model, products=(top, plate, pin), particulars=layers)


def written(kind: str, folder: Path, made: Callable[[BlobStore], Model] = small_assembly) -> bytes:
    """The small assembly, or another, as a file of a kind.

    Args:
        folder: of a store for its bodies.
    """
    store = BlobStore(folder)
    model = made(store)
    facts = measure_all(model.blobs(), str(folder))
    return write_model(model, kind, SendSettings(), store, facts, name="small")


def without_colours(model: Model) -> Model:
    """The model with every colour taken away."""
    return replace(
        model,
        products=tuple(
            replace(
                p,
                bodies=tuple(replace(b, colour=None, face_colours=()) for b in p.bodies),
                occurrences=tuple(replace(o, colour=None) for o in p.occurrences),
            )
            for p in model.products
        ),
    )

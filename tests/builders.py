"""Small models made on purpose."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from gondrel.core.formats.settings import SendSettings
from gondrel.core.kernel.build import block, cut, cylinder
from gondrel.core.kernel.shape import shape_to_blob
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


def written(kind: str, folder: Path) -> bytes:
    """The small assembly as a file of a kind.

    Args:
        folder: of a store for its bodies.
    """
    store = BlobStore(folder)
    model = small_assembly(store)
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

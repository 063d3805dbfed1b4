"""A small model and a proof of it, made without the kernel."""

from __future__ import annotations

from dataclasses import replace

from gondrel.core.carriage.forecast import make_forecast
from gondrel.core.carriage.ledger import Compared, Proof, make_ledger
from gondrel.core.model import (
    Body,
    BodyFacts,
    BodyKind,
    Material,
    Model,
    Occurrence,
    Product,
    Rgba,
)
from gondrel.core.model.carries import THINGS, Carries
from gondrel.core.model.verdicts import Verdict

GREY = Rgba(0.5, 0.5, 0.5)


def facts(volume: float = 1000.0) -> BodyFacts:
    return BodyFacts(
        volume=volume, area=600.0, centroid=(0, 0, 0), inertia=(1, 1, 1), inertia_matrix=(1.0,) * 9,
        bbox=(0, 0, 0, 10, 10, 10), faces=6, edges=12, vertices=8, surfaces=(("plane", 6),),
        tolerance=1e-7, length=120.0,
    )  # fmt: skip


def solid(name: str, layers: tuple[str, ...] = ()) -> Body:
    return Body(f"b-{name}", BodyKind.SOLID, name, f"blob-{name}", GREY, (), layers)


def gate() -> Model:
    """A gate: a frame used once, two pins side by side, and a pin set with a pin of its own."""
    pin = Product(
        "pin", "G-3", "Pin", "A", "turned", Material("Bronze CuSn8", 8800.0), bodies=(solid("pin"),)
    )
    frame = Product("frame", "G-2", "Frame", "B", bodies=(solid("frame", ("FRAME",)),))
    pin_set = Product("set", "G-4", "Pin set", "A", occurrences=(Occurrence("o4", "pin", "pin inside"),))
    top = Product(
        "top", "G-1", "Gate", "C",
        occurrences=(
            Occurrence("o1", "frame", "frame"),
            Occurrence("o2", "pin", "pin left"),
            Occurrence("o3", "pin", "pin right"),
            Occurrence("o5", "set", "set"),
        ),
    )  # fmt: skip
    return Model((top, frame, pin, pin_set), ("top",))


def forecast_of(model: Model, *without: str):
    """A forecast for a target that holds all things but some."""
    reasons = tuple((thing, f"no place for {thing}") for thing in without)
    carries = Carries(frozenset(THINGS) - set(without), reasons)
    return make_forecast(model, carries, title="Test target", unit="mm")


def proof_of(model: Model, *lost: str, announced: bool = True) -> Proof:
    """A proof in which every item of some things is lost and all else is carried."""
    compared = []
    for entry in forecast_of(model).entries:
        gone = entry.item.thing in lost
        compared.append(
            Compared(
                entry.item,
                Verdict.LOST if gone else Verdict.CARRIED,
                "" if gone else entry.item.text,
                "nothing came back" if gone else "",
                0 if gone else entry.item.weight,
                entry.item.products[:1],
                announced if gone else None,
            )
        )
    said = {c.item.key: "lost" for c in compared if c.verdict == "lost" and announced}
    ledger = make_ledger(compared, said, ("mm", "mm"), 0.0004)
    unsaid = () if announced else tuple(c for c in compared if c.verdict == "lost")
    return Proof(
        Verdict.LOST if lost else Verdict.CARRIED, ledger, 0.0004, 3e-9, 0.0, unsaid, (), "sampled"
    )


def many(count: int) -> Model:
    """An assembly of very many different parts."""
    base = solid("part")
    parts = tuple(
        Product(f"p{i}", f"N-{i:05}", f"Part {i}", bodies=(replace(base, id=f"b{i}"),))
        for i in range(count)
    )
    uses = tuple(Occurrence(f"o{i}", f"p{i}", f"use {i}") for i in range(count))
    return Model((Product("top", "T", "Top", occurrences=uses), *parts), ("top",))

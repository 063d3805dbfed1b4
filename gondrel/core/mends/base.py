"""How mends are declared, and what they are given."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from gondrel.core.kernel.base.shape import Shape
from gondrel.core.model.body import BodyKind, Rgba
from gondrel.core.model.findings import CheckLimits, Finding
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore

__all__ = ["BodyMend", "BodyWork", "Changed", "Mend", "ModelMend", "ModelWork"]


@dataclass(frozen=True, slots=True)
class BodyWork:
    """What a mend of bodies works on.

    Args:
        shapes: the bodies; tolerance: how far apart edges are that belong together, mm.
        marked: for each body the faces (by index) that findings point at.
        looks: for each body the colours of its faces, by index.
        smooth: whether faces that close rims run on from their neighbours without an edge.
        near: a point of the body; only what lies nearest to it is to be mended, where that can be told.
    """

    shapes: Sequence[Shape]
    tolerance: float
    limits: CheckLimits = CheckLimits()
    marked: Sequence[frozenset[int]] = ()
    looks: Sequence[Mapping[int, Rgba | None]] = ()
    smooth: bool = False
    near: tuple[float, float, float] | None = None

    @property
    def only(self) -> frozenset[int] | None:
        """The faces of the one finding that is to be mended; none when all are."""
        return self.marked[0] if self.near is not None else None


@dataclass(frozen=True, slots=True)
class ModelWork:
    """What a mend of structure works on: a model, one of its products, and what was found on it."""

    model: Model
    store: BlobStore
    product: str
    findings: tuple[Finding, ...]
    limits: CheckLimits


@dataclass(frozen=True, slots=True)
class Changed:
    """What came of a mend of structure: the model, and in words what was done."""

    model: Model
    what: str


@dataclass(frozen=True, slots=True)
class Mend:
    """What is said of every mend.

    Args:
        code: permanent; letter R and three digits; 1 for bodies, 2 for meshes, 3 for structure.
        title: what it does; what: in a sentence or two, with what it leaves alone.
        cures: codes of the checks whose findings it cures.
        is_safe: whether it keeps the shape that is there. is_asked: whether it is done only when it is
            asked for by name, because the sender may have meant what is there.
        order: mends are tried by rising order. is_single: whether it can be done for one finding alone.
    """

    code: str
    name: str
    title: str
    what: str
    cures: tuple[str, ...]
    order: int
    is_safe: bool = False
    is_asked: bool = False
    is_single: bool = False


@dataclass(frozen=True, slots=True)
class BodyMend(Mend):
    """A mend of one body, or of all skins of a product together.

    Args:
        run: returns (kind, shape) of what came of the bodies. Raises KernelRefused.
        takes_all: whether it works on all solids and sheets of a product together.
        reach: how far it may move what is there, mm; none for ten times the tolerance.
    """

    run: Callable[[BodyWork], list[tuple[BodyKind, Any]]] = field(kw_only=True)
    takes_all: bool = False
    reach: Callable[[BodyWork], float] | None = None


@dataclass(frozen=True, slots=True)
class ModelMend(Mend):
    """A mend of structure: of bodies and places as wholes.

    Args:
        run: returns the changed model. Raises GondrelError when it can't or should not be done.
    """

    run: Callable[[ModelWork], Changed] = field(kw_only=True)

"""What a stand-in is: it takes a file as its system would, and complains."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace

from gondrel.core.formats.registry import by_content
from gondrel.core.formats.settings import ReceiveSettings
from gondrel.core.model.body import Body
from gondrel.core.model.product import Product
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.recipients.stand_ins.keys import CARD_OF
from gondrel.core.work import SILENT, Progress

__all__ = ["StandIn", "Taken", "opened", "with_bodies"]


@dataclass(frozen=True, slots=True)
class Taken:
    """What a stand-in made of a file.

    Args:
        model: what it holds then; without products where it took nothing in.
        complaints: what it would tell its user, in sentences.
    """

    model: Model
    complaints: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class StandIn:
    """A simulated receiving system.

    Args:
        key: what it is called in commands; title: for people; what: what it does to files, in sentences.
        take: reads a file into a store. Raises InputError, KernelRefused.
        flattens: whether its bodies stand in their places in no assembly.
    """

    key: str
    title: str
    what: str
    take: Callable[[str, BlobStore, Progress], Taken]
    flattens: bool = False

    @property
    def card(self) -> str:
        """Key of the shipped recipient card with the same limits."""
        return CARD_OF[self.key]


def opened(path: str, store: BlobStore, progress: Progress = SILENT) -> tuple[str, Model]:
    """The key of a file's format, and the file as it is. Raises InputError, KernelRefused."""
    form = by_content(path)
    return form.key, form.reads(path, store, settings=ReceiveSettings(), progress=progress)


def with_bodies(product: Product, bodies: Iterable[Body]) -> Product:
    """A product with other bodies."""
    return replace(product, bodies=tuple(bodies), validation=None)

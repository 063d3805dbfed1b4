"""How the content of a crossing of one version becomes that of the next."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

from gondrel.core.service.saved.schema import VERSION, check_shape

__all__ = ["upgraded"]

Plain = dict[str, Any]


def upgraded(plain: Plain, version: int) -> Plain:
    """The content of a crossing as of today's version, held against the schema of each on the way.

    Raises:
        MalformedFile: when it has another shape than its version.
    """
    check_shape(plain, version)
    for step in range(version, VERSION):
        _STEPS[step](plain)
        check_shape(plain, step + 1)
    return plain


def _to_2(plain: Plain) -> None:
    """Further looks of bodies, colours of edges, colours in one place alone."""
    for product in _products(plain):
        for body in product.get("bodies", ()):
            body |= {"looks": [], "face_looks": [], "edge_colours": []}
        for use in product.get("occurrences", ()):
            use["own_colours"] = []


def _to_3(plain: Plain) -> None:
    """Looks of bodies are called appearance, further files of what was sent its companions."""
    for product in _products(plain):
        for body in product.get("bodies", ()):
            body["appearance"] = body.pop("looks", [])
            body["face_appearance"] = body.pop("face_looks", [])
    if (sent := plain.get("sent")) and "beside" in sent:
        sent["companions"] = sent.pop("beside")


def _to_4(plain: Plain) -> None:
    """Components can be left out, sources taken again by steps; values accepted, sendings logged: all of
    it is new, and absent means none."""


def _to_5(plain: Plain) -> None:
    """Views are kept: all of it is new, and absent means none."""


def _to_6(plain: Plain) -> None:
    """Shapes can wait to be loaded: all of it is new, and absent means none."""


_STEPS: dict[int, Callable[[Plain], None]] = {1: _to_2, 2: _to_3, 3: _to_4, 4: _to_5, 5: _to_6}


def _products(plain: Plain) -> Iterator[Plain]:
    """Every product of every model of a crossing."""
    models = [step["model"] for step in plain.get("history", {}).get("steps", ())]
    models += [source["model"] for source in plain.get("sources", ())]
    if sent := plain.get("sent"):
        models.append(sent["returned"])
    for model in models:
        yield from model.get("products", ())

"""What attributes say of a part, an instance or a face, in the model's words."""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Any

from gondrel.core.formats.xt import attributes as named
from gondrel.core.formats.xt.attributes import numbers_in, text_in
from gondrel.core.model.body import Rgba
from gondrel.core.model.product import Material, Metadatum, Value

__all__ = [
    "body_of",
    "colour_of",
    "identity_of",
    "layer_number",
    "layers_of",
    "material_of",
    "metadata_of",
    "more_of",
    "name_of",
    "own_faces_of",
]

_LONGEST_NUMBER = 9

Said = Mapping[str, list[list[Any]]]

_KNOWN = frozenset(
    (
        named.COLOUR, named.TRANSPARENCY, named.NAME, named.UNICODE_NAME, named.DENSITY, named.LAYER,
        named.IDENTITY, named.MATERIAL, named.DATUM, named.BODY, named.INSIDE, named.LAYER_NAME, named.MORE,
        named.BODY_MORE, named.MODEL_MORE,
    )
)  # fmt: skip


def colour_of(said: Said) -> Rgba | None:
    """The colour, None when none is given."""
    for fields in said.get(named.COLOUR, ()):
        values = numbers_in(fields, 0)
        if len(values) >= 3:
            clear = [numbers_in(f, 0) for f in said.get(named.TRANSPARENCY, ())]
            alpha = 1.0 - clear[0][0] if clear and clear[0] else 1.0
            return Rgba(values[0], values[1], values[2], alpha)
    return None


def name_of(said: Said) -> str:
    """The name by the definitions that modellers share."""
    for identifier in (named.UNICODE_NAME, named.NAME):
        for fields in said.get(identifier, ()):
            if text := text_in(fields, 0):
                return text
    return ""


def identity_of(said: Said) -> tuple[str, str, str, str]:
    """Number, name, revision and description.

    The name by the shared definitions is what others see and may have changed: it counts, and our own copy
    only says which part of it is the number.
    """
    shared = name_of(said)
    for fields in said.get(named.IDENTITY, ()):
        number, name, revision, description = (text_in(fields, place) for place in range(4))
        label = name or number
        kept = name if shared in (label, _plain_text(label)) else shared
        return number, kept, revision, description
    return "", shared, "", ""


def _plain_text(text: str) -> str:
    return text.encode("latin-1", "replace").decode("latin-1")


def body_of(said: Said) -> tuple[str, frozenset[int] | None]:
    """The name of a body and the places of its faces with colours of their own, None when not told."""
    for fields in said.get(named.BODY, ()):
        name, shared = text_in(fields, 0), name_of(said)
        if name and named.INSIDE in said and shared not in (name, _plain_text(name)):
            name = shared  # what others see and have changed
        return name, frozenset(int(v) for v in numbers_in(fields, 1))
    return "", None


def own_faces_of(said: Said) -> frozenset[int] | None:
    """Places of the faces that have a colour of their own, None when the file does not tell."""
    if named.BODY in said:
        return body_of(said)[1]
    return frozenset() if named.IDENTITY in said or named.INSIDE in said else None


def layers_of(said: Said) -> tuple[str, ...]:
    """Names of layers, else their numbers; the numbers are what others see and may have changed."""
    names = [text_in(fields, 0) for fields in said.get(named.LAYER_NAME, ())]
    numbers = [int(v[0]) for f in said.get(named.LAYER, ()) if (v := numbers_in(f, 0))]
    layers = []
    for place, number in enumerate(numbers, 1):
        name = names[place - 1] if place <= len(names) else ""
        layers.append(name if name and number == layer_number(name, place) else str(number))
    return tuple(layers)


def layer_number(name: str, place: int) -> int:
    """The number of a layer in the file: its name where that is one, else its place."""
    return int(name) if name.isdecimal() and len(name) < _LONGEST_NUMBER else place


def more_of(said: Said, identifier: str = named.MORE) -> str:
    """What is said besides, as one text."""
    return next((text_in(fields, 0) for fields in said.get(identifier, ())), "")


def material_of(said: Said) -> Material | None:
    """The material, at least its density, None when nothing is told.

    The density by the shared definition counts, since others see it.
    """
    shared = next((v[0] for f in said.get(named.DENSITY, ()) if (v := numbers_in(f, 0))), None)
    for fields in said.get(named.MATERIAL, ()):
        return Material(text_in(fields, 0), shared, text_in(fields, 1))
    return Material("", shared) if shared is not None else None


def metadata_of(said: Said) -> tuple[Metadatum, ...]:
    """Our own metadata with their kinds, and every attribute of others as text."""
    metadata = [Metadatum(text_in(f, 0), _value(text_in(f, 2))) for f in said.get(named.DATUM, ())]
    for identifier, several in said.items():
        if identifier in _KNOWN or not identifier:
            continue
        for fields in several:
            for place, value in enumerate(fields):
                key = identifier if len(fields) == 1 else f"{identifier}.{place + 1}"
                if value not in ("", []):
                    metadata.append(Metadatum(key, value if isinstance(value, str) else _plain(value)))
    return tuple(metadata)


def _value(text: str) -> Value:
    try:
        value = json.loads(text)
    except ValueError:
        return text
    return value if isinstance(value, str | int | float | bool) else text


def _plain(values: list[Any]) -> Value:
    if len(values) == 1 and isinstance(values[0], int | float):
        return values[0]
    return ", ".join("none" if v is None else f"{v}" for v in values)

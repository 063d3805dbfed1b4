"""The document as plain immutable data: products, occurrences, bodies, units and where they came from."""

from gondrel.core.model.body import Body, BodyFacts, BodyKind, Rgba
from gondrel.core.model.history import History
from gondrel.core.model.product import (
    IDENTITY,
    Material,
    Metadatum,
    Occurrence,
    Product,
    Validation,
)
from gondrel.core.model.provenance import FileFacts, Note, Provenance, Writer
from gondrel.core.model.snapshot import Model
from gondrel.core.model.units import LengthUnit

__all__ = [
    "IDENTITY",
    "Body",
    "BodyFacts",
    "BodyKind",
    "FileFacts",
    "History",
    "LengthUnit",
    "Material",
    "Metadatum",
    "Model",
    "Note",
    "Occurrence",
    "Product",
    "Provenance",
    "Rgba",
    "Validation",
    "Writer",
]

"""Labels of a transferred STEP document, and the tokens by which they are traced to their records."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from OCP.OCP.collections import Sequence_TDF_Label as LabelSequence
from OCP.StepBasic import (
    StepBasic_Product,
    StepBasic_ProductDefinition,
    StepBasic_ProductDefinitionFormation,
)
from OCP.StepRepr import StepRepr_NextAssemblyUsageOccurrence
from OCP.TCollection import TCollection_AsciiString, TCollection_HAsciiString
from OCP.TDataStd import TDataStd_Name
from OCP.TDF import TDF_Label, TDF_Tool

__all__ = ["label_key", "labels_of", "put_tokens", "token_of"]

TOKEN = "@gondrel@"


def put_tokens(named: Iterable[object]) -> None:
    """Give every product definition and usage a name that says which of the list it is."""
    seen: set[int] = set()
    for place, entity in enumerate(named, 1):
        token = TCollection_HAsciiString(f"{TOKEN}{place}")
        if isinstance(entity, StepRepr_NextAssemblyUsageOccurrence):
            entity.SetId(token)
            entity.SetName(token)
            entity.SetDescription(token)
        elif isinstance(entity, StepBasic_ProductDefinition):
            formation = entity.Formation()
            if formation is None or formation.OfProduct() is None:
                continue
            product = formation.OfProduct()
            if id(formation) in seen or id(product) in seen:
                copy = StepBasic_Product()
                copy.Init(token, token, None, product.FrameOfReference())
                own = StepBasic_ProductDefinitionFormation()
                own.Init(formation.Id(), formation.Description(), copy)
                entity.SetFormation(own)
                continue
            seen.update((id(formation), id(product)))
            product.SetId(token)
            product.SetName(token)


def label_key(label: TDF_Label) -> str:
    """Where a label stands in its document."""
    entry = TCollection_AsciiString()
    TDF_Tool.Entry_s(label, entry)
    return str(entry.ToCString())


def token_of(label: TDF_Label) -> int:
    """The number that the token of a label holds, 0 without one."""
    if not label.IsAttribute(TDataStd_Name.GetID_s()):
        return 0
    name = TDataStd_Name()
    label.FindAttribute(TDataStd_Name.GetID_s(), name)
    text = name.Get().ToExtString()
    return int(text[len(TOKEN) :]) if text.startswith(TOKEN) else 0


def labels_of(sequence: LabelSequence) -> Iterator[TDF_Label]:
    """The labels of a sequence."""
    if sequence.IsEmpty():  # asking the binding for a length costs a fifth of a millisecond
        return
    for index in range(1, sequence.Length() + 1):
        yield sequence.Value(index)

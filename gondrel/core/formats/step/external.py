"""External files of a STEP assembly: who refers to which.

Source: ISO 10303-41 (document, applied references) as the recommended practices for external
references use it, from memory: a product definition is an item of an APPLIED_DOCUMENT_REFERENCE whose
document is equivalent to a product definition with an associated DOCUMENT_FILE, or is one itself.
"""

from __future__ import annotations

from gondrel.core.errors import GondrelError
from gondrel.core.formats.step.graph import read_graph
from gondrel.core.formats.step.records import Records, open_records
from gondrel.core.formats.step.tokens import InstanceReference, numbers_in

__all__ = ["DOCUMENTS", "external_files", "product_names"]

DOCUMENTS = "PRODUCT_DEFINITION_WITH_ASSOCIATED_DOCUMENTS"


def external_files(records: Records) -> dict[int, str]:
    """File names by the number of the product definition that needs them."""
    file_of_formation: dict[int, str] = {}
    for definition in records.of(DOCUMENTS):
        parameters = definition.parts.get(DOCUMENTS) or definition.parameters
        if len(parameters) < 5 or not isinstance(parameters[2], InstanceReference):
            continue
        names = [_file_name(records, number) for number in numbers_in(parameters[4])]
        if any(names):
            file_of_formation[parameters[2].number] = next(name for name in names if name)
    file_of_document: dict[int, str] = {}
    for equivalence in records.of("DOCUMENT_PRODUCT_EQUIVALENCE"):
        if equivalence.ref(3) in file_of_formation:
            file_of_document[equivalence.ref(2)] = file_of_formation[equivalence.ref(3)]
    files: dict[int, str] = {}
    for reference in records.of("APPLIED_DOCUMENT_REFERENCE"):
        document = reference.ref(0)
        name = file_of_document.get(document) or _file_name(records, document)
        if not name:
            continue
        for item in numbers_in(reference.parameters[2] if len(reference.parameters) > 2 else ()):
            owner = _definition_of(records, item)
            if owner:
                files[owner] = name
    return files


def _file_name(records: Records, number: int) -> str:
    record = records.get(number)
    if record is None or "DOCUMENT_FILE" not in record.parts:
        return ""
    parameters = record.parts["DOCUMENT_FILE"]
    return next((p for p in parameters if isinstance(p, str) and p.strip()), "")


def _definition_of(records: Records, number: int) -> int:
    """The product definition an item is or belongs to, 0 when it is none."""
    for _ in range(3):
        record = records.get(number)
        if record is None:
            return 0
        if "PRODUCT_DEFINITION" in record.parts:
            return record.number
        if record.keyword in ("PRODUCT_DEFINITION_SHAPE", "PROPERTY_DEFINITION"):
            number = record.ref(2)
        else:
            return 0
    return 0


def product_names(path: str) -> set[str]:
    """Numbers and names of the products a STEP file itself holds, empty when it can't be read."""
    try:
        with open_records(path) as records:
            elsewhere = set(external_files(records))
            held = [p for n, p in read_graph(records).products.items() if n not in elsewhere]
    except GondrelError:
        return set()
    return {text for product in held for text in (product.number, product.name) if text}

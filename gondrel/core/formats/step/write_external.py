"""An assembly of several STEP files: which product's shape is in which file, and what those files hold.

Source: ISO 10303-41 (document, applied references) and the recommended practices for external references
of the CAx implementor forum, from memory; the kernel's own reader follows them (tested).
"""

from __future__ import annotations

from collections.abc import Mapping

from gondrel.core.formats.step.compose import RecordComposer, ref
from gondrel.core.formats.step.tokens import Typed
from gondrel.core.model.product import Product
from gondrel.core.model.snapshot import Model

__all__ = ["Documents", "part_model"]


def part_model(model: Model, product: Product) -> Model:
    """A model of one part as its own file holds it."""
    return Model((product,), (product.id,), model.units, particulars=model.particulars)


class Documents:
    """Writes the records that lead from a product to its file.

    Args:
        data_format: what the files are, as "STEP AP242".
    """

    def __init__(self, composer: RecordComposer, data_format: str) -> None:
        self.composer = composer
        self.data_format = data_format
        self._shared: dict[str, int] = {}

    def add(self, definition: int, file: str) -> None:
        """Say that the shape of a product definition is in a file, named from the folder of this one."""
        add, shared = self.composer.add, self._of_all()
        product = add("PRODUCT", file, file, "", (ref(shared["product context"]),))
        version = add("PRODUCT_DEFINITION_FORMATION", "1", "", ref(product))
        kind = add("DOCUMENT_TYPE", "geometry")
        held = add("DOCUMENT_FILE", file, "", None, ref(kind), "", None)
        add(
            "PRODUCT_DEFINITION_WITH_ASSOCIATED_DOCUMENTS", "1", "", ref(version),
            ref(shared["definition context"]), (ref(held),),
        )  # fmt: skip
        document = add("DOCUMENT", file, "", None, ref(shared["type"]))
        add("DOCUMENT_PRODUCT_EQUIVALENCE", "equivalence", None, ref(document), ref(version))
        source = add("EXTERNAL_SOURCE", Typed("IDENTIFIER", (file,)))
        role = "APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT"
        add(role, file, ref(shared["role"]), ref(source), (ref(held),))
        reference = add("APPLIED_DOCUMENT_REFERENCE", ref(document), "", (ref(definition),))
        add("ROLE_ASSOCIATION", ref(shared["mandatory"]), ref(reference))
        said = add("PROPERTY_DEFINITION", "document property", "", ref(held))
        representation = add(
            "REPRESENTATION", "document format", (ref(shared["format"]),), ref(shared["parameters"])
        )
        add("PROPERTY_DEFINITION_REPRESENTATION", ref(said), ref(representation))
        add("DOCUMENT_REPRESENTATION_TYPE", "digital", ref(held))

    def _of_all(self) -> Mapping[str, int]:
        """The records that all documents share."""
        if not self._shared:
            add = self.composer.add
            application = add("APPLICATION_CONTEXT", "")
            self._shared = {
                "product context": add("PRODUCT_CONTEXT", "", ref(application), ""),
                "definition context": add(
                    "PRODUCT_DEFINITION_CONTEXT", "digital document definition", ref(application), ""
                ),
                "type": add("DOCUMENT_TYPE", "configuration controlled document version"),
                "role": add("IDENTIFICATION_ROLE", "external document id and location", None),
                "mandatory": add("OBJECT_ROLE", "mandatory", None),
                "format": add("DESCRIPTIVE_REPRESENTATION_ITEM", "data format", self.data_format),
                "parameters": add("REPRESENTATION_CONTEXT", "", "document parameters"),
            }
        return self._shared

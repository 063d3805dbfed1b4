"""Sheets of stations that have nothing to do in this version, and the properties of a selection."""

from __future__ import annotations

from typing import Any

from PySide6.QtWidgets import QLabel

from gondrel.core.model import Product
from gondrel.ui.presenters.text import mass, volume
from gondrel.ui.session import Session
from gondrel.ui.sheets.base import SheetView, head, quiet

__all__ = ["ArrangeSheet", "QuietSheet"]


class QuietSheet(SheetView):
    """A station whose work comes later; says so."""

    def __init__(self, title: str, text: str, parent: Any = None) -> None:
        super().__init__(title, parent)
        self.add(quiet(text))
        self.finish()


class ArrangeSheet(SheetView):
    """Properties of what is selected. Editing comes with the next version."""

    def __init__(self, session: Session, parent: Any = None) -> None:
        super().__init__("Arrange", parent)
        self.session = session
        for signal in (session.selection_changed, session.model_changed, session.facts_changed):
            signal.connect(self.refresh)
        self.refresh()

    def _product(self) -> Product | None:
        model = self.session.model
        if model is None or not self.session.selection:
            return None
        chain = self.session.selection[0]
        if not chain:
            return model.product(model.roots[0])
        token = next(iter(chain[-1]))
        if token.startswith("product:"):
            return model.by_id.get(token.removeprefix("product:"))
        found = next((o.product for _, o in model.occurrences() if o.id in chain[-1]), "")
        return model.by_id.get(found)

    def refresh(self) -> None:
        """Show the properties of the first selected item."""
        self.clear()
        product = self._product()
        if product is None:
            self.add(
                quiet(
                    "Nothing is selected. Pick an item in the manifest or in the picture to "
                    "see its number, revision, material, figures and metadata."
                )
            )
            self.finish()
            return
        name = QLabel(product.label)
        name.setProperty("role", "name")
        name.setWordWrap(True)
        self.add(name)
        material = product.material
        pairs = [
            ("Number", product.number),
            ("Revision", product.revision),
            ("Description", product.description),
            ("Material", material.name if material else ""),
            (
                "Density",
                f"{material.density:g} kg/m\u00b3" if material and material.density else "",
            ),
        ]
        facts = [self.session.facts[b.blob] for b in product.bodies if b.blob in self.session.facts]
        if facts:
            total = sum(f.volume for f in facts)
            pairs += [
                ("Volume", volume(total)),
                ("Area", f"{sum(f.area for f in facts) / 100:,.2f} cm\u00b2"),
                ("Mass", mass(total, material.density if material else None)),
                ("Faces", f"{sum(f.faces for f in facts):,}"),
            ]
        self.add_facts([(label, value) for label, value in pairs if value])
        if product.metadata:
            self.add(head("Metadata"))
            self.add_facts([(m.key, f"{m.value}") for m in product.metadata])
        self.finish()

"""What is chosen for a send, as settings by their keys and back. No Qt."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from gondrel.core.arrange.scope import queried, scoped
from gondrel.core.model import Model
from gondrel.core.service.messages import TargetChoice
from gondrel.core.service.recipes import KIND

__all__ = ["FORMS", "SCOPES", "SendChoices"]

FORMS: Mapping[str, Mapping[str, str]] = {
    "structure": {},
    "placed": {"form": "placed"},
    "linked": {"files": "linked"},
    "nested": {"files": "nested"},
    "each": {"files": "each"},
}
"""How an assembly can go, and the settings that say so."""

SCOPES = ("", "selected", "fits")
"""What of a model can go: everything, what is selected, what fits a query."""

_MESH_KEYS, _EXACT_KEYS = ("chord", "angle", "files"), ("cylinders", "bodies")


@dataclass(slots=True)
class SendChoices:
    """What is chosen for a send.

    Args:
        kind: of the target; unit: key of a length unit; form: one of FORMS; options: further settings.
        scope: one of SCOPES; query: terms with commas between, for "fits".
    """

    kind: str = "step-ap242"
    unit: str = "mm"
    form: str = "structure"
    options: dict[str, str] = field(default_factory=dict)
    scope: str = ""
    query: str = ""

    def values(self, targets: Sequence[TargetChoice]) -> dict[str, str]:
        """The choices that the target has, with its kind."""
        target = next((t for t in targets if t.kind == self.kind), None)
        is_mesh = target is not None and target.is_mesh
        form = "structure" if is_mesh or target is None else self.form
        if form in ("linked", "nested") and target is not None and not target.links:
            form = "structure"
        keys = _MESH_KEYS if is_mesh else _EXACT_KEYS
        options = {key: value for key, value in self.options.items() if key in keys and value}
        return {KIND: self.kind, "unit": self.unit, **FORMS[form], **options}

    def take(self, values: Mapping[str, str], targets: Sequence[TargetChoice]) -> None:
        """Choose what a recipe says; its kind and unit stay as they are where it says none."""
        self.kind, self.unit = values.get(KIND, self.kind), values.get("unit", self.unit)
        is_mesh = any(t.kind == self.kind and t.is_mesh for t in targets)
        said = {key: values[key] for key in ("form", "files") if key in values}
        self.form = next((token for token, form in FORMS.items() if form == said), "structure")
        keys = _MESH_KEYS if is_mesh else _EXACT_KEYS
        self.options = {key: values[key] for key in keys if key in values}

    def going(self, model: Model, selected: Sequence[str]) -> Model:
        """What of a model is sent. Raises UsageError when nothing is."""
        if self.scope == "selected":
            return scoped(model, selected)[0]
        if self.scope == "fits" and self.query:
            return scoped(model, queried(model, [q.strip() for q in self.query.split(",")]))[0]
        return model

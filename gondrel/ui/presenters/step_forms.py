"""What can be done to items when they are arranged, and which values each needs. No widgets."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from gondrel.core.errors import UsageError
from gondrel.core.model import BodyFacts, Model, Product

__all__ = ["FORMS", "GROUPS", "FormField", "StepForm", "items_for", "values_from"]


@dataclass(frozen=True, slots=True)
class FormField:
    """One value of a step.

    Args:
        kind: text, texts, changes, number, share, count, yes, no (ticked for false), choice, vector,
            pair, edges, faces, spot, item.
        picks: what of a picked face fills it: "point", "into" (against its normal), "normal", or nothing.
    """

    key: str
    label: str
    kind: str
    unit: str = ""
    value: str = ""
    choices: tuple[str, ...] = ()
    picks: str = ""
    optional: bool = False


@dataclass(frozen=True, slots=True)
class StepForm:
    """Something that can be done.

    Args:
        key: of the kind of step; fixed: values that the form does not ask for.
        on: what must be selected: "items", "one" item, "place" of a component, or "" for nothing.
        does: what it does, in a sentence.
    """

    key: str
    title: str
    group: str
    does: str
    fields: tuple[FormField, ...] = ()
    fixed: tuple[tuple[str, Any], ...] = ()
    on: str = "items"


_PLANE = (
    FormField("at", "Through", "vector", "mm", "0, 0, 0", picks="point"),
    FormField("normal", "Across", "vector", "", "1, 0, 0", picks="normal"),
)
_COUNT = FormField("count", "In all", "count", "", "4")

FORMS: tuple[StepForm, ...] = (
    StepForm(
        "group",
        "Put into a sub-assembly",
        "Structure",
        "They go into a new sub-assembly in their place.",
        (
            FormField("name", "Name", "text", "", "Sub-assembly"),
            FormField("number", "Number", "text", optional=True),
        ),
    ),
    StepForm(
        "dissolve", "Dissolve", "Structure", "The sub-assembly goes; what is in it stays where it is."
    ),
    StepForm("flatten", "Flatten", "Structure", "All levels below it become one.", on="one"),
    StepForm(
        "components", "Bodies to components", "Structure", "Each body becomes a component of its own."
    ),
    StepForm(
        "independent",
        "Make independent",
        "Structure",
        "In this place it becomes a part of its own, which can be changed alone.",
        (FormField("name", "Name", "text", optional=True),),
        on="place",
    ),
    StepForm(
        "replace",
        "Replace by another",
        "Structure",
        "Another part is put in all its places.",
        (FormField("by", "By", "item"),),
    ),
    StepForm(
        "move-into",
        "Move into",
        "Structure",
        "They go into an assembly and stay where they are in space.",
        (FormField("into", "Assembly", "item"),),
    ),
    StepForm(
        "merge",
        "Merge equal products",
        "Structure",
        "Those of the same shape become the first of them, whatever they are called.",
    ),
    StepForm(
        "order",
        "Change the order",
        "Structure",
        "Among the components beside them.",
        (FormField("to", "Put them", "choice", "", "earlier", ("first", "earlier", "later", "last")),),
    ),
    StepForm(
        "sort",
        "Sort the components",
        "Structure",
        "Of the selected assemblies.",
        (FormField("by", "By", "choice", "", "number", ("number", "name")),),
    ),
    StepForm(
        "leave-out",
        "Leave out of what is sent",
        "Structure",
        "They stay here when the model is sent, and the forecast says so.",
        (FormField("out", "Left out", "yes", "", "yes"),),
    ),
    StepForm("delete", "Delete", "Structure", "The items go with all their places."),
    StepForm(
        "move",
        "Move or turn",
        "Place",
        "It is moved and turned in its assembly.",
        (
            FormField("by", "By", "vector", "mm", "0, 0, 0"),
            FormField("turn", "Turn by", "number", "\u00b0", "0"),
            FormField("axis", "About", "vector", "", "0, 0, 1"),
            FormField("about", "Through", "vector", "mm", "0, 0, 0", picks="point"),
        ),
        on="place",
    ),
    StepForm(
        "align",
        "Align with another",
        "Place",
        "Pick a face of what moves and take it; then one of what stays. Planes come face to face, round "
        "faces axis to axis, frames wholly.",
        (
            FormField("mine", "What moves", "spot"),
            FormField("to", "Goes to", "spot"),
            FormField("how", "By", "choice", "", "face", ("face", "axis", "frame")),
            FormField("flip", "Turned about", "yes"),
            FormField("gap", "Gap", "number", "mm", "0"),
        ),
        on="",
    ),
    StepForm(
        "repeat-line",
        "Repeat along a line",
        "Place",
        "Further places at even steps.",
        (_COUNT, FormField("step", "Step", "vector", "mm", "20, 0, 0")),
        on="place",
    ),
    StepForm(
        "repeat-circle",
        "Repeat on a circle",
        "Place",
        "Further places at even angles.",
        (
            _COUNT,
            FormField("axis", "About", "vector", "", "0, 0, 1"),
            FormField("about", "Through", "vector", "mm", "0, 0, 0", picks="point"),
            FormField("angle", "Over", "number", "\u00b0", "360"),
        ),
        on="place",
    ),
    StepForm(
        "repeat-grid",
        "Repeat in a grid",
        "Place",
        "Further places in rows and columns.",
        (
            FormField("rows", "Rows", "count", "", "2"),
            FormField("columns", "Columns", "count", "", "2"),
            FormField("row_step", "Row step", "vector", "mm", "20, 0, 0"),
            FormField("column_step", "Column step", "vector", "mm", "0, 20, 0"),
        ),
        on="place",
    ),
    StepForm(
        "mirror",
        "Mirror a component",
        "Place",
        "Its mirror image is added as a part of its own.",
        _PLANE[::-1],
        on="place",
    ),
    StepForm(
        "rename",
        "Name by a pattern",
        "Names",
        "{n} counts, {n:3:10} from 010; {name}, {number}, {material}, {layer} are as they are.",
        (
            FormField("field", "Set", "choice", "", "name", ("name", "number", "revision", "description")),
            FormField("pattern", "Pattern", "text", "", "{name}"),
        ),
    ),
    StepForm(
        "find-replace",
        "Find and replace",
        "Names",
        "In the names or numbers of the items.",
        (
            FormField("field", "In", "choice", "", "name", ("name", "number", "revision", "description")),
            FormField("find", "Find", "text"),
            FormField("put", "Put", "text", optional=True),
            FormField("regular", "Regular expression", "yes"),
        ),
    ),
    StepForm(
        "keep",
        "Keep only",
        "Cut down",
        "All other parts go; so do assemblies that hold nothing then.",
        (
            FormField("names", "Names", "texts", optional=True),
            FormField("layers", "Layers", "texts", optional=True),
            FormField("materials", "Materials", "texts", optional=True),
            FormField("larger", "Larger than", "number", "mm", optional=True),
            FormField("least_share", "At least", "share", "% of all", optional=True),
            FormField("visible", "Seen from outside", "yes", optional=True),
        ),
        on="",
    ),
    StepForm(
        "drop",
        "Leave out",
        "Cut down",
        "Parts that fit go; so do assemblies that hold nothing then.",
        (
            FormField("names", "Names", "texts", optional=True),
            FormField("layers", "Layers", "texts", optional=True),
            FormField("materials", "Materials", "texts", optional=True),
            FormField("smaller", "Smaller than", "number", "mm", optional=True),
            FormField("most_share", "At most", "share", "% of all", optional=True),
            FormField("standard", "Standard parts", "yes", optional=True),
            FormField("visible", "Not seen from outside", "no", optional=True),
        ),
        on="",
    ),
    StepForm(
        "envelope",
        "Replace by an envelope",
        "Cut down",
        "It becomes one simple body that holds all of it.",
        (FormField("kind", "Envelope", "choice", "", "box", ("box", "cylinder", "hull", "skin")),),
    ),
    StepForm(
        "hole",
        "Hole",
        "Body",
        "Pick a face where it goes in. Depth 0 is through; a counterbore is told by width and depth, a "
        "countersink by width and angle, a thread as M8.",
        (
            FormField("at", "At", "vector", "mm", "0, 0, 0", picks="point"),
            FormField("into", "Into", "vector", "", "0, 0, -1", picks="into"),
            FormField("diameter", "Diameter", "number", "mm", "6"),
            FormField("depth", "Depth", "number", "mm", "0"),
            FormField("bore", "Counterbore", "pair", "mm", optional=True),
            FormField("sink", "Countersink", "pair", "mm, \u00b0", optional=True),
            FormField("thread", "Thread", "text", "", optional=True),
        ),
        on="one",
    ),
    StepForm(
        "fillet",
        "Round edges",
        "Body",
        "Pick edges and add them.",
        (FormField("edges", "Edges", "edges"), FormField("radius", "Radius", "number", "mm", "2")),
        on="one",
    ),
    StepForm(
        "chamfer",
        "Bevel edges",
        "Body",
        "Pick edges and add them.",
        (FormField("edges", "Edges", "edges"), FormField("width", "Width", "number", "mm", "1")),
        on="one",
    ),
    StepForm(
        "shell",
        "Hollow out",
        "Body",
        "Pick the faces that are left open and add them.",
        (FormField("faces", "Open faces", "faces"), FormField("wall", "Wall", "number", "mm", "2")),
        on="one",
    ),
    StepForm(
        "fill-holes",
        "Fill small holes",
        "Cut down",
        "Round holes of a smaller diameter are filled.",
        (FormField("below", "Below", "number", "mm", "5"),),
    ),
    StepForm(
        "drop-fillets",
        "Drop small fillets",
        "Cut down",
        "Roundings of a smaller radius go.",
        (FormField("below", "Below", "number", "mm", "2"),),
    ),
    StepForm(
        "drop-chamfers",
        "Drop small bevels",
        "Cut down",
        "Bevels of a smaller width go.",
        (FormField("below", "Below", "number", "mm", "2"),),
    ),
    StepForm(
        "rebuild",
        "Change features",
        "Body",
        "The part is computed anew from its features with changes: the number of the feature in the list "
        "of features (Ctrl+M), what of it, its value. 2 diameter 10; 3 kind counterbore; 1 move 5,0,0; "
        "4 remove; 5 count 3. Several are divided by semicolons.",
        (FormField("changes", "Changes", "changes", "", "1 diameter 10"),),
        on="one",
    ),
    StepForm(
        "thicken",
        "Thicken a sheet",
        "Body",
        "The sheet becomes a solid; below zero against its normal.",
        (FormField("thickness", "Thickness", "number", "mm", "2"),),
        on="one",
    ),
    StepForm(
        "cut",
        "Cut by a plane",
        "Body",
        "The side against the normal is kept, the other, or both.",
        (*_PLANE, FormField("keep", "Keep", "choice", "", "below", ("below", "above", "both"))),
        on="one",
    ),
    StepForm(
        "scale",
        "Scale",
        "Body",
        "The body becomes larger or smaller.",
        (
            FormField("factor", "Factor", "number", "", "1"),
            FormField("about", "About", "vector", "mm", "0, 0, 0", picks="point"),
        ),
        on="one",
    ),
    StepForm(
        "mirror-body",
        "Mirror a body",
        "Body",
        "The body and its image become one, or stay two.",
        (*_PLANE, FormField("unite", "Unite them", "yes", "", "yes")),
        on="one",
    ),
    StepForm(
        "combine",
        "Unite, take away, common",
        "Body",
        "With the body of another part, where both stand.",
        (
            FormField("how", "How", "choice", "", "unite", ("unite", "take-away", "common")),
            FormField("other", "Other part", "item"),
            FormField("remove", "The other goes", "yes", "", "yes"),
        ),
        on="one",
    ),
)
"""Everything that there is a form for, in the order in which it is listed."""

GROUPS = tuple(dict.fromkeys(form.group for form in FORMS))


def items_for(model: Model, ids: Iterable[str], facts: Mapping[str, BodyFacts]) -> dict[str, Any]:
    """Products by what they are, as a steps file tells them: by number, else by name, and by their figures
    where neither tells them apart; nothing where all are meant."""
    chosen = list(ids)
    if len(chosen) > 1 and set(chosen) >= {p.id for p in model.products if not p.is_reference}:
        return {}
    numbers = Counter(p.number for p in model.products)
    names = Counter(p.name for p in model.products)
    described = [_described(model.product(i), numbers, names, facts) for i in chosen]
    if len(described) == 1:
        return described[0]
    return {"any_of": described}


def _described(
    product: Product, numbers: Counter[str], names: Counter[str], facts: Mapping[str, BodyFacts]
) -> dict[str, Any]:
    if product.number and numbers[product.number] == 1:
        return {"number": _literal(product.number)}
    told: dict[str, Any] = {"name": _literal(product.name)} if product.name else {}
    if (
        (not told or names[product.name] > 1)
        and product.bodies
        and all(b.blob in facts for b in product.bodies)
    ):
        sizes = [facts[b.blob] for b in product.bodies]
        told["like"] = {"volume": sum(s.volume for s in sizes), "area": sum(s.area for s in sizes)}
    return told


def _literal(text: str) -> str:
    """A text that means itself where * and ? mean others."""
    return "".join(f"[{c}]" if c in "*?[" else c for c in text)


def values_from(form: StepForm, texts: Mapping[str, Any]) -> dict[str, Any]:
    """Values of a step from what stands in its form.

    Args:
        texts: by key of the field: text, or the points of edges and faces, or the description of an item.

    Raises:
        UsageError: when a text is no such value, with the field.
    """
    values: dict[str, Any] = dict(form.fixed)
    for each in form.fields:
        given = texts.get(each.key, "")
        if given in ("", None, False, ()) and (each.optional or each.kind in ("yes", "no", "text")):
            if each.kind == "yes" and not each.optional:
                values[each.key] = False
            continue
        values[each.key] = _value(each, given)
    return values


def _value(each: FormField, given: Any) -> Any:
    if each.kind in ("edges", "faces", "item", "spot"):
        if not given:
            raise UsageError(f"{each.label}: nothing is chosen yet")
        return given
    if each.kind in ("yes", "no"):
        return each.kind == "yes"
    text = str(given).strip()
    if each.kind == "changes":
        return [part.strip() for part in text.split(";") if part.strip()]
    if each.kind == "texts":
        return [part.strip() for part in text.split(",") if part.strip()]
    if each.kind in ("text", "choice"):
        return text
    numbers = _numbers(each, text)
    wanted = {"vector": 3, "pair": 2}.get(each.kind, 1)
    if len(numbers) != wanted:
        raise UsageError(f"{each.label}: {wanted} number{'s' if wanted > 1 else ''} wanted, got {text!r}")
    if each.kind == "count":
        return round(numbers[0])
    if each.kind == "share":
        return numbers[0] / 100
    return numbers if wanted > 1 else numbers[0]


def _numbers(each: FormField, text: str) -> list[float]:
    try:
        return [float(part) for part in text.replace(";", ",").split(",") if part.strip()]
    except ValueError:
        raise UsageError(f"{each.label}: {text!r} is no number") from None

"""Particulars of products as records that assign something to items: one pattern each, read and written.

Source: the order of attributes in ISO 10303-41 (alias numbers, documents, groups, people, dates, approvals,
security, effectivity) and of the assignments in ISO 10303-203, -214 and -242, from memory.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass

from gondrel.core.formats.step.compose import RecordComposer, ref
from gondrel.core.formats.step.records import Record, Records
from gondrel.core.formats.step.tokens import Enumeration, InstanceReference, Parameter, Typed
from gondrel.core.model.particulars import KINDS, PAPERS, Particular

__all__ = ["USUAL_CATEGORIES", "Assigned", "AssignmentWriter", "assigned"]


@dataclass(frozen=True, slots=True)
class _Field:
    """Takes the next value: a text, whole number, real or enumeration as the kind of the field says."""

    kind: str = "text"


@dataclass(frozen=True, slots=True)
class _Node:
    """A record of one of several keywords, the first of which is written."""

    keywords: tuple[str, ...]
    parts: tuple[object, ...]


@dataclass(frozen=True, slots=True)
class _Maybe:
    """A record that may not be given: its values are empty then."""

    node: _Node


_TEXT, _OPTIONAL, _ABSENT, _LIST = _Field(), _Field("optional"), _Field("absent"), _Field("list")
_WHOLE, _MAYBE_WHOLE, _SIDE = _Field("whole"), _Field("maybe whole"), _Field("side")
_ITEMS = _Field("items")
_MAY_BE_ABSENT = ("absent", "list", "maybe whole", "maybe real")
"""Kinds of values that are written as not given where they are empty; a text that may be empty is not."""


def _node(keyword: str, *parts: object) -> _Node:
    return _Node(tuple(keyword.split("|")), parts)


_PERSON = _node("PERSON", _TEXT, _ABSENT, _ABSENT, _LIST, _LIST, _LIST)
_FIRM = _node("ORGANIZATION", _ABSENT, _TEXT, _OPTIONAL)
_BOTH = _node("PERSON_AND_ORGANIZATION", _PERSON, _FIRM)
_DAY = _node("CALENDAR_DATE", _WHOLE, _WHOLE, _WHOLE)
_ZONE = _node("COORDINATED_UNIVERSAL_TIME_OFFSET", _WHOLE, _MAYBE_WHOLE, _SIDE)
_TIME = _node("LOCAL_TIME", _WHOLE, _MAYBE_WHOLE, _Field("maybe real"), _ZONE)
_ROLE = _node("IDENTIFICATION_ROLE", _TEXT, _OPTIONAL)

# Which value of the kind each field of a pattern takes, in the order in which the pattern comes to them;
# none where they come in the order of the kind.
_PATTERNS: tuple[tuple[str, _Node, tuple[int, ...]], ...] = (
    ("alias", _node("APPLIED_IDENTIFICATION_ASSIGNMENT", _TEXT, _ROLE, _ITEMS), ()),
    ("number at a source",
     _node("APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT", _TEXT, _ROLE,
           _node("EXTERNAL_SOURCE", _Field("named")), _ITEMS), ()),
    ("further name", _node("NAME_ATTRIBUTE", _TEXT, _Field("item")), ()),
    ("category", _node("PRODUCT_RELATED_PRODUCT_CATEGORY", _TEXT, _OPTIONAL, _ITEMS), ()),
    ("class",
     _node("APPLIED_CLASSIFICATION_ASSIGNMENT", _node("CLASS", _TEXT, _OPTIONAL),
           _node("CLASSIFICATION_ROLE", _TEXT, _OPTIONAL), _ITEMS), ()),
    ("group", _node("APPLIED_GROUP_ASSIGNMENT", _node("GROUP", _TEXT, _OPTIONAL), _ITEMS), ()),
    ("document",
     _node("APPLIED_DOCUMENT_REFERENCE|CC_DESIGN_SPECIFICATION_REFERENCE",
           _node("DOCUMENT", _TEXT, _TEXT, _OPTIONAL, _node("DOCUMENT_TYPE", _TEXT)), _TEXT, _ITEMS), ()),
    ("person",
     _node("APPLIED_PERSON_AND_ORGANIZATION_ASSIGNMENT|CC_DESIGN_PERSON_AND_ORGANIZATION_ASSIGNMENT",
           _BOTH, _node("PERSON_AND_ORGANIZATION_ROLE", _TEXT), _ITEMS), (1, 2, 3, 4, 5, 6, 7, 8, 9, 0)),
    ("organisation",
     _node("APPLIED_ORGANIZATION_ASSIGNMENT", _FIRM, _node("ORGANIZATION_ROLE", _TEXT), _ITEMS),
     (1, 2, 3, 0)),
    ("date", _node("APPLIED_DATE_ASSIGNMENT", _DAY, _node("DATE_ROLE", _TEXT), _ITEMS), (1, 2, 3, 0)),
    ("moment",
     _node("APPLIED_DATE_AND_TIME_ASSIGNMENT|CC_DESIGN_DATE_AND_TIME_ASSIGNMENT",
           _node("DATE_AND_TIME", _DAY, _TIME), _node("DATE_TIME_ROLE", _TEXT), _ITEMS),
     (1, 2, 3, 4, 5, 6, 7, 8, 9, 0)),
    ("approval",
     _node("APPLIED_APPROVAL_ASSIGNMENT|CC_DESIGN_APPROVAL",
           _node("APPROVAL", _node("APPROVAL_STATUS", _TEXT), _TEXT), _ITEMS), (0, 1)),
    ("security class",
     _node("APPLIED_SECURITY_CLASSIFICATION_ASSIGNMENT|CC_DESIGN_SECURITY_CLASSIFICATION",
           _node("SECURITY_CLASSIFICATION", _TEXT, _TEXT, _node("SECURITY_CLASSIFICATION_LEVEL", _TEXT)),
           _ITEMS), ()),
    ("certification",
     _node("APPLIED_CERTIFICATION_ASSIGNMENT|CC_DESIGN_CERTIFICATION",
           _node("CERTIFICATION", _TEXT, _TEXT, _node("CERTIFICATION_TYPE", _TEXT)), _ITEMS), ()),
    ("contract",
     _node("APPLIED_CONTRACT_ASSIGNMENT|CC_DESIGN_CONTRACT",
           _node("CONTRACT", _TEXT, _TEXT, _node("CONTRACT_TYPE", _TEXT)), _ITEMS), ()),
    ("effectivity",
     _node("APPLIED_EFFECTIVITY_ASSIGNMENT",
           _node("SERIAL_NUMBERED_EFFECTIVITY", _TEXT, _TEXT, _ABSENT), _ITEMS), ()),
    ("dated effectivity",
     _node("APPLIED_EFFECTIVITY_ASSIGNMENT",
           _node("DATED_EFFECTIVITY", _TEXT, _Maybe(_DAY), _DAY), _ITEMS), (0, 4, 5, 6, 1, 2, 3)),
)  # fmt: skip
_APPROVER = _node("APPROVAL_PERSON_ORGANIZATION", _BOTH, _Field("approval"), _node("APPROVAL_ROLE", _TEXT))
_APPROVED = _node("APPROVAL_DATE_TIME", _node("DATE_AND_TIME", _DAY, _TIME), _Field("approval"))
_OF_APPROVALS = ((_APPROVER, (3, 4, 5, 6, 7, 8, 9, 10, 11, 2)), (_APPROVED, tuple(range(12, 21))))
"""Records on an approval, with the places of their values among those of the kind."""
USUAL_CATEGORIES = frozenset(("part", "assembly", "detail", "standard", "component"))
"""Categories of products that say no more than their structure does."""


@dataclass(frozen=True, slots=True)
class Assigned:
    """A particular that a file assigns.

    Args:
        number: of the record that assigns it; items: of the records it is assigned to; more: of further
            records that belong to it; paper: of the paper that it is, 0 where it is none.
    """

    particular: Particular
    number: int
    items: tuple[int, ...]
    more: tuple[int, ...] = ()
    paper: int = 0


def assigned(records: Records) -> Iterator[Assigned]:
    """The particulars of a file; what does not fit its pattern is passed over."""
    on_approvals: defaultdict[int, list[Record]] = defaultdict(list)
    for each in records.of(*(keyword for pattern, _ in _OF_APPROVALS for keyword in pattern.keywords)):
        on_approvals[each.ref(1)].append(each)
    for kind, pattern, order in _PATTERNS:
        for record in records.of(*pattern.keywords):
            taken = _Taken()
            if not _match(records, pattern, record.number, taken) or not taken.items:
                continue
            values = _ordered(taken.values, order)
            more: tuple[int, ...] = ()
            if kind == "category" and values[0].lower() in USUAL_CATEGORIES:
                continue
            if kind == "approval":
                values, more = _approved(records, on_approvals[record.ref(0)], values)
            paper = record.ref(0) if kind in PAPERS else 0
            yield Assigned(Particular(kind, values), record.number, tuple(taken.items), more, paper)


def _approved(
    records: Records, said: list[Record], values: tuple[str, ...]
) -> tuple[tuple[str, ...], tuple[int, ...]]:
    """Status and level of an approval with who approves and when, where those are single ones."""
    whole = [*values, *[""] * (len(KINDS["approval"].fields) - len(values))]
    more: list[int] = []
    for pattern, order in _OF_APPROVALS:
        fitting = [record for record in said if record.keyword in pattern.keywords]
        taken = _Taken()
        if len(fitting) == 1 and _match(records, pattern, fitting[0].number, taken):
            more.append(fitting[0].number)
            for place, value in zip(order, taken.values, strict=True):
                whole[place] = value
    return tuple(whole), tuple(more)


class _Taken:
    def __init__(self) -> None:
        self.values: list[str] = []
        self.items: list[int] = []


def _ordered(values: list[str], order: tuple[int, ...]) -> tuple[str, ...]:
    if not order:
        return tuple(values)
    ordered_values = [""] * len(values)
    for place, value in zip(order, values, strict=True):
        ordered_values[place] = value
    return tuple(ordered_values)


def _match(records: Records, pattern: _Node, number: int, taken: _Taken) -> bool:
    """Whether a record fits a pattern; its values are taken in the order of the pattern."""
    record = records.get(number)
    if record is None or record.keyword not in pattern.keywords:
        return False
    parameters = record.parameters
    if len(parameters) != len(pattern.parts):
        return False
    for part, value in zip(pattern.parts, parameters, strict=True):
        if isinstance(part, _Maybe):
            if value is None:
                taken.values += [""] * _fields_in(part.node)
                continue
            part = part.node
        if isinstance(part, _Node):
            if not isinstance(value, InstanceReference) or not _match(records, part, value.number, taken):
                return False
        elif isinstance(part, _Field):
            text = _taken(part.kind, value, taken)
            if text is None:
                return False
            if part.kind not in ("items", "item", "approval"):
                taken.values.append(text)
    return True


def _fields_in(pattern: _Node) -> int:
    """How many values a pattern takes."""
    parts = [part.node if isinstance(part, _Maybe) else part for part in pattern.parts]
    own = sum(isinstance(p, _Field) and p.kind not in ("items", "item", "approval") for p in parts)
    return own + sum(_fields_in(part) for part in parts if isinstance(part, _Node))


def _taken(kind: str, value: Parameter, taken: _Taken) -> str | None:
    """A parameter as a text, None where it is not of the kind."""
    if kind in ("items", "item"):
        several = value if isinstance(value, tuple) else (value,)
        references = [_reference(each) for each in several]
        if not references or None in references:
            return None
        taken.items += [n for n in references if n is not None]
        return ""
    if kind == "approval":
        return ""
    if value is None:
        return "" if kind in _MAY_BE_ABSENT or kind == "optional" else None
    if kind == "named" and isinstance(value, Typed) and len(value.parameters) == 1:
        value = value.parameters[0]
    if kind == "list":
        texts = value if isinstance(value, tuple) else ()
        return "\n".join(t for t in texts if isinstance(t, str)) if texts else None
    if kind == "side":
        return value.name if isinstance(value, Enumeration) else None
    if kind in ("whole", "maybe whole"):
        return str(value) if isinstance(value, int) else None
    if kind == "maybe real":
        return repr(float(value)) if isinstance(value, int | float) else None
    return value if isinstance(value, str) else None


def _reference(value: Parameter) -> int | None:
    if isinstance(value, Typed) and len(value.parameters) == 1:
        value = value.parameters[0]
    return value.number if isinstance(value, InstanceReference) else None


class AssignmentWriter:
    """Collects particulars and writes each once, with all it is assigned to.

    Args:
        first_edition: whether the assignments of AP203's first edition are written, and only those.
    """

    def __init__(self, composer: RecordComposer, *, first_edition: bool = False) -> None:
        self.composer = composer
        self.keyword = 1 if first_edition else 0
        self.collected: defaultdict[Particular, list[int]] = defaultdict(list)
        self.on_papers: list[tuple[Particular, Particular]] = []
        self.papers: dict[Particular, int] = {}
        """Record of each paper that was written."""

    def add(self, particulars: Iterable[Particular], targets: Mapping[str, int]) -> None:
        """Say particulars of an item.

        Args:
            targets: its records by what they are: product, revision, definition, or "" for the only one.
        """
        particulars = tuple(particulars)
        papers = {p.kind: Particular(p.kind, p.values) for p in particulars if p.kind in PAPERS}
        for each in particulars:
            if self._is_written(each.kind) and each.of in papers and self._is_written(each.of):
                self.on_papers.append((Particular(each.kind, each.values), papers[each.of]))
            elif self._is_written(each.kind) and each.of in targets:
                key = Particular(each.kind, each.values)
                self.collected[key].append(targets[each.of])

    def _is_written(self, kind: str) -> bool:
        if kind not in _WRITTEN:
            return False
        keywords = _WRITTEN[kind][0].keywords
        return not self.keyword or kind == "category" or keywords[-1].startswith("CC_DESIGN")

    def said_of(self, kind: str, role: str = "") -> set[int]:
        """The records that a kind of particular was said of, in a role where one is given."""
        return {
            item
            for each, items in self.collected.items()
            if each.kind == kind and role in ("", each.values[0])
            for item in items
        }

    def finish(self) -> None:
        """Write what was collected: papers first, then what is said of them and of products."""
        for each in list(self.collected):
            if each.kind in PAPERS:
                pattern, _ = _WRITTEN[each.kind]
                paper = next(part for part in pattern.parts if isinstance(part, _Node))
                self.papers[each] = self._write(paper, list(each.values), (), None, 0)
        for each, of in dict.fromkeys(self.on_papers):
            self.collected[each].append(self.papers[of])
        for each, items in self.collected.items():
            pattern, order = _WRITTEN[each.kind]
            values = [each.values[place] for place in order] if order else list(each.values)
            approval = self._approval(each) if each.kind == "approval" else 0
            if _takes_one(pattern):
                for item in items:
                    self._write(pattern, list(values), (), item, 0)
            else:
                listed = tuple(ref(n) for n in dict.fromkeys(items))
                self._write(pattern, values, listed, None, approval)

    def _approval(self, each: Particular) -> int:
        """The approval with who approves and when: a record of its own for each set of values."""
        status = self.composer.share("APPROVAL_STATUS", each.values[0])
        approval = self.composer.add("APPROVAL", ref(status), each.values[1])
        for pattern, places in _OF_APPROVALS:
            values = [each.values[place] for place in places]
            if any(values):
                self._write(pattern, values, (), None, approval)
        return approval

    def _write(
        self,
        pattern: _Node,
        values: list[str],
        items: tuple[Parameter, ...],
        item: int | None,
        approval: int,
    ) -> int:
        parameters: list[Parameter] = []
        for part in pattern.parts:
            if isinstance(part, _Maybe):
                count = _fields_in(part.node)
                if not any(values[:count]):
                    del values[:count]
                    parameters.append(None)
                    continue
                part = part.node
            if isinstance(part, _Node):
                if approval and part.keywords == ("APPROVAL",):
                    parameters.append(ref(approval))
                    continue
                parameters.append(ref(self._write(part, values, items, item, approval)))
            elif isinstance(part, _Field):
                if part.kind == "items":
                    parameters.append(items)
                elif part.kind == "item":
                    parameters.append(ref(item or 0))
                elif part.kind == "approval":
                    parameters.append(ref(approval))
                else:
                    parameters.append(_parameter(part.kind, values.pop(0)))
        keyword = pattern.keywords[min(self.keyword, len(pattern.keywords) - 1)]
        return self.composer.share(keyword, *parameters)


_WRITTEN = {kind: (pattern, order) for kind, pattern, order in _PATTERNS}


def _takes_one(pattern: _Node) -> bool:
    return any(isinstance(p, _Field) and p.kind == "item" for p in pattern.parts)


def _parameter(kind: str, text: str) -> Parameter:
    if not text and kind in _MAY_BE_ABSENT:
        return None
    if kind == "list":
        return tuple(text.split("\n"))
    if kind == "named":
        return Typed("IDENTIFIER", (text,))
    if kind == "side":
        return Enumeration(text)
    if kind in ("whole", "maybe whole"):
        return int(text)
    return float(text) if kind == "maybe real" else text

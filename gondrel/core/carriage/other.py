"""The same file by two readers: ours, and one that did not come from here.

What both see alike is as good as seen by any receiver; what they see otherwise is told, item by item.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from itertools import chain

from gondrel.core.model.body import Body, BodyFacts, BodyKind
from gondrel.core.model.limits import Limits
from gondrel.core.model.notes import unlike_witness
from gondrel.core.model.other import OtherProduct, OtherReading
from gondrel.core.model.product import Product
from gondrel.core.model.snapshot import Model

__all__ = [
    "AGREED",
    "BY_NODES",
    "OTHERWISE",
    "UNREAD",
    "OtherLine",
    "compare_nodes",
    "compare_other",
    "unread",
]

AGREED, OTHERWISE = "read alike", "read otherwise by another reader"
UNREAD, BY_NODES = "not read by another reader", "compared with its own nodes"
_PLACE = 1e-4


@dataclass(frozen=True, slots=True)
class OtherLine:
    """One thing of the file as our reading and as the other have it, for one item.

    Args:
        thing: a thing of the ledger; item: a product by its name, empty for the whole.
    """

    thing: str
    item: str
    before: str
    after: str
    verdict: str


def unread(why: str) -> tuple[OtherLine, ...]:
    """The line of a file that no other reader has read."""
    return (OtherLine("bodies", "", "", why, UNREAD),)


def compare_nodes(model: Model, facts: Mapping[str, BodyFacts]) -> tuple[OtherLine, ...]:
    """Areas and volumes by what a file's own records say, without any kernel, against those as read."""
    lines, heard, exact = [], 0, 0
    for product, body in model.bodies():
        said, facts_read = body.heard, facts.get(body.blob)
        if body.kind not in (BodyKind.SOLID, BodyKind.SHEET) or facts_read is None:
            continue
        exact += 1
        if said is None or said.area is None:
            continue
        heard += 1
        if differs := unlike_witness(body, facts_read):
            lines.append(OtherLine("geometry", _label(product), differs, "", OTHERWISE))
    if exact:
        text = f"area and volume of {heard} of {exact} bodies"
        lines.append(OtherLine("geometry", "", "", text, BY_NODES))
    return tuple(lines)


def compare_other(
    model: Model, facts: Mapping[str, BodyFacts], other: OtherReading, *, is_loose: bool = False
) -> tuple[OtherLine, ...]:
    """What the two readings of a file have otherwise; one line of agreement for each thing without any.

    Args:
        model: the file by our reading; facts: measures of its bodies by hash.
        is_loose: whether the file holds loose surfaces only, which the other reader neither joins nor
            gathers by product; then areas and colours are compared as a whole.
    """
    lines: list[OtherLine] = []
    renamed = {} if is_loose else _renamed(model, facts, other)
    other = replace(
        other, products=tuple(replace(p, name=renamed.get(p.name, p.name)) for p in other.products)
    )
    called = (OtherLine("structure", ours, f"called {ours}", f"called {theirs}", OTHERWISE)
              for theirs, ours in renamed.items())  # fmt: skip
    for thing, compared_lines in (
        ("structure", iter(()) if is_loose else chain(called, _structure(model, other))),
        ("placement", iter(()) if is_loose else _placements(model, other)),
        ("bodies", iter(()) if is_loose else _bodies(model, other)),
        ("geometry", _geometry(model, facts, other, is_loose)),
        ("colours", iter(()) if is_loose else _colours(model, facts, other)),
    ):
        compared = list(compared_lines)
        if compared or not is_loose or thing == "geometry":
            lines += compared or [OtherLine(thing, "", "", "", AGREED)]
    return tuple(lines)


def _label(product: Product) -> str:
    return product.name or product.number


def _renamed(model: Model, facts: Mapping[str, BodyFacts], other: OtherReading) -> dict[str, str]:
    """Our names by theirs, of parts that only the figures of their bodies show to be the same."""
    ours, theirs = _gathered(model, True), _by_name(other, True)
    limits = Limits()
    renamed: dict[str, str] = {}
    figures = {
        name: (sum(b.kind is BodyKind.SOLID for b in bodies), sum(facts[b.blob].area for b in bodies))
        for name, bodies in ours.items()
        if name not in theirs and all(b.blob in facts for b in bodies)
    }
    for name, parts in theirs.items():
        if name in ours or len(parts) != 1:
            continue
        solids, area = dict(parts[0].kinds).get("solid", 0), parts[0].area
        alike = [
            own for own, (count, size) in figures.items()
            if count == solids and abs(area - size) <= limits.area * max(area, size)
        ]  # fmt: skip
        if len(alike) == 1 and alike[0] not in renamed.values():
            renamed[name] = alike[0]
    return renamed


def _structure(model: Model, other: OtherReading) -> Iterator[OtherLine]:
    """Products by name, and how often each occurs in which."""
    ours = Counter(_label(p) for p in model.products if p.bodies or p.occurrences)
    theirs = Counter(p.name for p in _own(other))
    for name in sorted((ours - theirs) | (theirs - ours)):
        yield _counted("structure", name, ours[name], theirs[name])
    uses = Counter((_label(p), _label(model.product(o.product))) for p, o in model.occurrences()
                   if o.product in model.by_id and _is_seen(model.product(o.product)))  # fmt: skip
    seen = Counter(
        (p.name, other.products[u.child].name)
        for p in _own(other)
        for u in p.uses
        if not _is_inner(other, p, u.child)
    )
    for pair in sorted((uses - seen) | (seen - uses)):
        yield _counted("structure", " / ".join(pair), uses[pair], seen[pair])


def _counted(thing: str, item: str, ours: int, theirs: int) -> OtherLine:
    return OtherLine(thing, item, str(ours), str(theirs), OTHERWISE)


def _is_seen(product: Product) -> bool:
    return bool(product.bodies or product.occurrences)


def _is_inner(other: OtherReading, parent: OtherProduct, child: int) -> bool:
    """Whether a component only holds the bodies that an assembly has of its own."""
    inner = other.products[child]
    return not inner.uses and inner.name in ("", parent.name, "SHAPE", "COMPOUND", "SOLID")


def _own(other: OtherReading) -> list[OtherProduct]:
    """The products, without those that only hold bodies of an assembly."""
    inner = {u.child for p in other.products for u in p.uses if _is_inner(other, p, u.child)}
    return [p for n, p in enumerate(other.products) if n not in inner]


def _placements(model: Model, other: OtherReading) -> Iterator[OtherLine]:
    """Where components lie, by the names of both."""
    ours: dict[tuple[str, str], list[tuple[float, ...]]] = {}
    for parent, use in model.occurrences():
        child = model.by_id.get(use.product)
        if child is not None and _is_seen(child):
            ours.setdefault((_label(parent), _label(child)), []).append(use.placement)
    theirs: dict[tuple[str, str], list[tuple[float, ...]]] = {}
    for product in _own(other):
        for seen in product.uses:
            theirs.setdefault((product.name, other.products[seen.child].name), []).append(seen.placement)
    for pair, places in ours.items():
        left = list(theirs.get(pair, ()))
        if len(left) != len(places):
            continue  # told as structure
        for place in places:
            match = next((p for p in left if _same_place(p, place)), None)
            if match is None:
                at = ", ".join(f"{place[n]:.4g}" for n in (3, 7, 11))
                yield OtherLine("placement", " / ".join(pair), f"at ({at}) mm", "elsewhere", OTHERWISE)
            else:
                left.remove(match)


def _same_place(one: tuple[float, ...], other: tuple[float, ...]) -> bool:
    return all(abs(a - b) <= (_PLACE if n in (3, 7, 11) else 1e-6) for n, (a, b) in
               enumerate(zip(one[:12], other[:12], strict=True)))  # fmt: skip


def _gathered(model: Model, named: bool) -> dict[str, list[Body]]:
    """Bodies that are read by both, by product."""
    gathered: dict[str, list[Body]] = {}
    for product, body in model.bodies():
        if body.kind in (BodyKind.SOLID, BodyKind.SHEET):
            gathered.setdefault(_label(product) if named else "", []).append(body)
    return gathered


def _by_name(other: OtherReading, named: bool) -> dict[str, list[OtherProduct]]:
    """The parts of the other reading by product; bodies of an assembly under its name."""
    by_name: dict[str, list[OtherProduct]] = {}
    inner = {u.child: p.name for p in other.products for u in p.uses if _is_inner(other, p, u.child)}
    for number, product in enumerate(other.products):
        if not product.uses and (product.kinds or product.area):
            by_name.setdefault(inner.get(number, product.name) if named else "", []).append(product)
    return by_name


def _bodies(model: Model, other: OtherReading) -> Iterator[OtherLine]:
    theirs = _by_name(other, True)
    for name, bodies in _gathered(model, True).items():
        ours = sum(b.kind is BodyKind.SOLID for b in bodies)
        seen = sum(dict(p.kinds).get("solid", 0) for p in theirs.get(name, ()))
        if ours != seen:
            yield OtherLine("bodies", name, f"{ours} solids", f"{seen} solids", OTHERWISE)


def _geometry(
    model: Model, facts: Mapping[str, BodyFacts], other: OtherReading, is_loose: bool
) -> Iterator[OtherLine]:
    """Areas and volumes."""
    limits, theirs = Limits(), _by_name(other, not is_loose)
    for name, bodies in _gathered(model, not is_loose).items():
        known = [facts[b.blob] for b in bodies if b.blob in facts]
        seen = theirs.get(name, [])
        if len(known) != len(bodies) or not seen:
            continue
        solid = [f.volume for f, b in zip(known, bodies, strict=True) if b.kind is BodyKind.SOLID]
        strip = sum(f.strip for f in known)
        size = max((max(f.bbox[n + 3] - f.bbox[n] for n in range(3)) for f in known), default=0.0)
        for what, ours, seen_there, slack, limit in (
            ("area", sum(f.area for f in known), sum(p.area for p in seen), strip, limits.area),
            ("volume", sum(solid), sum(p.volume for p in seen), strip * size, limits.volume),
        ):
            if is_loose and what == "volume":
                continue
            if abs(ours - seen_there) > limit * max(abs(ours), abs(seen_there)) + slack:
                unit = "mm2" if what == "area" else "mm3"
                yield OtherLine(
                    "geometry", name, f"{what} {ours:.7g} {unit}", f"{seen_there:.7g} {unit}", OTHERWISE
                )


def _colours(model: Model, facts: Mapping[str, BodyFacts], other: OtherReading) -> Iterator[OtherLine]:
    """Which colours are seen on a product."""
    theirs = _by_name(other, True)
    for name, bodies in _gathered(model, True).items():
        ours: set[str] = set()
        for body in bodies:
            ours |= {colour.hex for _, colour in body.face_colours}
            count = facts[body.blob].faces if body.blob in facts else 0
            if body.colour is not None and len(body.face_colours) < count:
                ours.add(body.colour.hex)
        seen = theirs.get(name, [])
        colours = {colour for p in seen for colour, area in p.colours if area > 0}
        if seen and ours != colours:
            yield OtherLine("colours", name, ", ".join(sorted(ours)) or "none",
                            ", ".join(sorted(colours)) or "none", OTHERWISE)  # fmt: skip

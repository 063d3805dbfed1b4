"""Aspects of a model as a whole: its unit, its layers, its file, and what its file holds besides."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.carriage.aspects.base import Aspect, Pair, Statement, Subject, gains_nothing
from gondrel.core.carriage.compare import lost
from gondrel.core.carriage.items import NO_UNIT
from gondrel.core.carriage.ledger import Compared
from gondrel.core.model.carries import FILE_DESCRIPTION, Carries
from gondrel.core.model.particulars import KINDS
from gondrel.core.model.snapshot import Model
from gondrel.core.model.verdicts import Fate, Verdict

__all__ = ["OF_MODEL"]

_WHOLE = "whole model"


def _unit(subject: Subject[Model]) -> Iterator[Statement]:
    yield Statement("length unit", subject.it.unit_told or NO_UNIT, where=_WHOLE)


def _compare_unit(pair: Pair[Model]) -> Compared:
    """A unit that was only assumed is no fact: neither the same as one that is said nor as another."""
    item, ours, theirs = pair.item, pair.ours, pair.theirs
    after = theirs.unit_told or NO_UNIT
    if item.text == after == NO_UNIT:
        detail = f"neither file says a unit; {theirs.units.key} was taken"
        return Compared(item, Verdict.UNPROVED, after, detail, 1)
    if after == NO_UNIT:
        return lost(item, f"the file says no unit; {theirs.units.key} was taken")
    detail = f"no unit was said before; {ours.units.key} was taken" if item.text == NO_UNIT else ""
    return Compared(item, Verdict.CARRIED if after == item.text else Verdict.ALTERED, after, detail, 1)


def _foresee_unit(
    statement: Statement, subject: Subject[Model], carries: Carries, title: str, unit: str
) -> tuple[Fate, str] | None:
    model = subject.it
    if not model.unit_told:
        return Fate.ALTERED, f"the file says no unit; {model.units.key} was taken, and {unit} is written"
    if model.units.key != unit:
        return Fate.ALTERED, f"written in {unit}; sizes stay as they are"
    return None


def _layers(subject: Subject[Model]) -> Iterator[Statement]:
    """What is said of layers, in so far as something is on them."""
    model = subject.it
    used = {layer for _, body in model.bodies() for layer in body.layers}
    used |= {layer for _, body in model.bodies() for _, layer in body.face_layers}
    used |= {layer for _, use in model.occurrences() for layer in use.layers}
    for each in model.particulars:
        layer, *rest = each.values
        if layer in used:
            thing = KINDS[each.kind].thing
            where = "layers" if thing == "layers" else _WHOLE
            text = rest[0] if rest else "hidden"
            yield Statement(f"{each.kind} {layer}", text, thing=thing, where=where)


def _file_description(subject: Subject[Model]) -> Iterator[Statement]:
    source = subject.it.provenance
    if source is not None and source.file.written_by.description:
        yield Statement(FILE_DESCRIPTION, source.file.written_by.description, where=_WHOLE)


def _remainder(subject: Subject[Model]) -> Iterator[Statement]:
    """Records that no thing covers, by kind and type."""
    source = subject.it.provenance
    census = source.census if source is not None else None
    for rest in (*census.rest, *census.besides) if census is not None else ():
        where = f"{rest.kind} ({', '.join(rest.where)})" if rest.where else rest.kind
        yield Statement(rest.aspect, f"{rest.count} {rest.type}", rest.count, where=where, value=rest.count)


def _counts(model: Model) -> dict[str, int]:
    return {each.aspect: each.weight for each in _remainder(Subject(model, model, "", ""))}


def _compare_remainder(pair: Pair[Model]) -> Compared:
    item, after = pair.item, _counts(pair.theirs).get(pair.item.aspect, 0)
    if not after:
        return lost(item, "nothing of it came back")
    return Compared(
        item, Verdict.CARRIED if after >= item.weight else Verdict.ALTERED, str(after), "", after
    )


def _gained_remainder(ours: Subject[Model], theirs: Subject[Model]) -> Iterator[Statement]:
    """Records that were not there or fewer."""
    before = _counts(ours.it)
    for aspect, count in _counts(theirs.it).items():
        more = count - before.get(aspect, 0)
        if more > 0:
            kind, _, type_ = aspect.rpartition(": ")
            yield Statement(aspect, f"{more} {type_}", more, where=kind)


OF_MODEL: tuple[Aspect[Model], ...] = (
    Aspect("units", _unit, _compare_unit, gains_nothing, _foresee_unit),
    Aspect("layers", _layers),
    Aspect("metadata", _file_description),
    Aspect("remainder", _remainder, _compare_remainder, _gained_remainder),
)

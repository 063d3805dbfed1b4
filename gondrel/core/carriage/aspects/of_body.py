"""Aspects of bodies, their faces and edges."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Iterator, Mapping

from gondrel.core.carriage.appearance import compare_edges, compare_face_colours, compare_faces
from gondrel.core.carriage.aspects import meshed
from gondrel.core.carriage.aspects.base import (
    Aspect,
    Pair,
    Statement,
    Subject,
    gains_nothing,
    in_words,
    text_of,
)
from gondrel.core.carriage.aspects.shared import data_statements, hidden_of
from gondrel.core.carriage.compare import compare_colour, compare_text
from gondrel.core.carriage.ledger import Compared
from gondrel.core.carriage.words import datum_text
from gondrel.core.model.appearance import BACK, REFLECTANCE
from gondrel.core.model.body import Body
from gondrel.core.model.carries import EDGE_COLOURS
from gondrel.core.model.changed import shape_changes
from gondrel.core.model.limits import unlike
from gondrel.core.model.verdicts import Verdict

__all__ = ["OF_BODY"]

_MOST_TEXTS = 5


def _kind(aspect: str) -> Callable[[Subject[Body]], Iterator[Statement]]:
    def stated(subject: Subject[Body]) -> Iterator[Statement]:
        yield Statement(aspect, subject.it.kind.value)

    return stated


def _compare_kind(pair: Pair[Body]) -> Compared:
    same = pair.ours.kind is pair.theirs.kind
    verdict = Verdict.CARRIED if same else Verdict.ALTERED
    return Compared(pair.item, verdict, pair.theirs.kind.value, "", 1, pair.ids)


def _compare_shape(pair: Pair[Body]) -> Compared:
    sides, item, ours, theirs = pair.sides, pair.item, pair.ours, pair.theirs
    a, b = sides.facts.get(ours.blob), sides.facts.get(theirs.blob)
    if a is None or b is None:
        return Compared(item, Verdict.UNPROVED, "", "the body could not be measured", 0, pair.ids)
    deviation = 0.0 if ours.blob == theirs.blob else sides.measure(ours.blob, theirs.blob).value
    if not a.faces and not b.faces:  # curves and points have no surfaces to measure between
        deviation = max(deviation, *(abs(p - q) for p, q in zip(a.bbox, b.bbox, strict=True)))
    if a.volume or b.volume:
        sides.volume_error = max(sides.volume_error or 0.0, unlike(a.volume, b.volume))
    sides.deviation = max(sides.deviation or 0.0, deviation)
    reasons = shape_changes(a, b, deviation, sides.limits)
    text = f"within {deviation:.2g} mm"
    unheard = [each.heard for each in (ours, theirs) if each.heard is not None and not each.heard.agrees]
    if unheard and not reasons:
        detail = "a face of it does not lie where its file's own records say"
        return Compared(item, Verdict.UNPROVED, text, detail, 1, pair.ids)
    verdict = Verdict.ALTERED if reasons else Verdict.CARRIED
    return Compared(item, verdict, text, "; ".join(reasons), 1, pair.ids)


def _gained_name(ours: Subject[Body], theirs: Subject[Body]) -> Iterator[Statement]:
    holder = ours.holder
    own = (holder.name, holder.number) if holder is not None else ()
    if theirs.it.name and not ours.it.name and theirs.it.name not in own:
        yield Statement("body name", theirs.it.name)


def _colour(subject: Subject[Body]) -> Iterator[Statement]:
    if subject.it.colour is not None:
        yield Statement("body colour", subject.it.colour.label)


def _compare_colour(pair: Pair[Body]) -> Compared:
    return compare_colour(pair.item, pair.ours.colour, pair.theirs.colour, pair.ids)


def _gained_colour(ours: Subject[Body], theirs: Subject[Body]) -> Iterator[Statement]:
    if ours.it.colour is None and not ours.it.face_colours:
        yield from _colour(theirs)


def _face_colours(subject: Subject[Body]) -> Iterator[Statement]:
    if count := len(subject.it.face_colours):
        yield Statement("face colours", f"{count} faces", count)


def _compare_face_colours(pair: Pair[Body]) -> Compared:
    return compare_face_colours(pair.item, pair.ours, pair.theirs, pair.sides.spots, pair.ids)


def _layers(subject: Subject[Body]) -> Iterator[Statement]:
    for layer in subject.it.layers:
        yield Statement(f"layer {layer}", layer)


def _compare_layer(pair: Pair[Body]) -> Compared:
    fresh = ", ".join(layer for layer in pair.theirs.layers if layer not in pair.ours.layers)
    after = pair.item.text if pair.item.text in pair.theirs.layers else fresh
    return compare_text(pair.item, after, pair.ids)


def _gained_layers(ours: Subject[Body], theirs: Subject[Body]) -> Iterator[Statement]:
    fresh = [layer for layer in theirs.it.layers if layer not in ours.it.layers]
    renamed = sum(layer not in theirs.it.layers for layer in ours.it.layers)  # told of those
    for layer in fresh[renamed:]:
        yield Statement(f"layer {layer}", layer)


def _metadata(subject: Subject[Body]) -> Iterator[Statement]:
    return in_words(data_statements("property", subject.it.metadata))


def _appearance(subject: Subject[Body]) -> Iterator[Statement]:
    return in_words(Statement(each.aspect, each.value) for each in subject.it.appearance)


Texts = Mapping[int, str]
"""The text of each face or edge that has one, by its index."""


def _texts_of(pairs: Iterable[tuple[int, str]]) -> Texts:
    texts: defaultdict[int, list[str]] = defaultdict(list)
    for face, text in pairs:
        texts[face].append(text)
    return {face: "; ".join(sorted(several)) for face, several in texts.items()}


def _facewise(
    thing: str, aspect: str, pairs: Callable[[Body], Iterable[tuple[int, str]]], *, of_edges: bool = False
) -> Aspect[Body]:
    """Texts of single faces or edges, compared where those lie."""
    word = "edge" if of_edges else "face"

    def stated(subject: Subject[Body]) -> Iterator[Statement]:
        texts = _texts_of(pairs(subject.it))
        if texts:
            some = ", ".join(sorted(set(texts.values()))[:_MOST_TEXTS])
            yield Statement(aspect, f"{len(texts)} {word}{'s' * (len(texts) != 1)}: {some}", len(texts))

    def compared(pair: Pair[Body]) -> Compared:
        before, after = _texts_of(pairs(pair.ours)), _texts_of(pairs(pair.theirs))
        blobs = pair.ours.blob, pair.theirs.blob
        compare, spots = (
            (compare_edges, pair.sides.edge_spots) if of_edges else (compare_faces, pair.sides.spots)
        )
        return compare(pair.item, blobs, before, after, spots, pair.ids)

    def gained(ours: Subject[Body], theirs: Subject[Body]) -> Iterator[Statement]:
        texts = _texts_of(pairs(theirs.it))
        if texts and not _texts_of(pairs(ours.it)):
            yield Statement(aspect, f"{len(texts)} {word}s")

    return Aspect(thing, stated, compared, gained)


def _of_faces(aspect: str) -> Callable[[Body], Iterable[tuple[int, str]]]:
    return lambda body: ((n, each.value) for n, each in body.face_appearance if each.aspect == aspect)


OF_BODY: tuple[Aspect[Body], ...] = (
    Aspect("bodies", _kind("body"), _compare_kind, gains_nothing, mesh=meshed.BODY),
    Aspect("geometry", _kind("shape"), _compare_shape, gains_nothing, mesh=meshed.SHAPE),
    text_of("names", "body name", lambda body: body.name, gain=_gained_name, mesh=meshed.NAME),
    Aspect("colours", _colour, _compare_colour, _gained_colour, mesh=meshed.COLOURS),
    Aspect("colours", _face_colours, _compare_face_colours, mesh=meshed.COLOURS),
    Aspect("layers", _layers, _compare_layer, _gained_layers, mesh=meshed.LAYERS),
    Aspect("metadata", _metadata),
    Aspect("colours", _appearance),
    hidden_of(lambda body: body.hidden),
    _facewise("names", "face names", lambda body: body.face_names),
    _facewise("layers", "face layers", lambda body: body.face_layers),
    _facewise(
        "metadata", "face properties",
        lambda body: ((n, f"{d.key}: {datum_text(d)}") for n, d in body.face_metadata),
    ),
    _facewise("colours", f"face {BACK}", _of_faces(BACK)),
    _facewise("colours", f"face {REFLECTANCE}", _of_faces(REFLECTANCE)),
    _facewise(
        "colours", EDGE_COLOURS, lambda body: ((n, c.label) for n, c in body.edge_colours), of_edges=True
    ),
)  # fmt: skip

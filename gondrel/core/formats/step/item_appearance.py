"""Looks that a STEP file's records give and the kernel passes over: of edges, points, whole shapes, backs
of surfaces, reflectances, and colours in one place alone.

Source: ISO 10303-46 (styled_item, presentation_style_by_context, context_dependent_over_riding_styled_item,
surface_side). A style in the context of a representation that is tied to the shape of a component is one
of that place alone: common practice of the trade.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import replace

from gondrel.core.formats.step.join import ModelBuilder
from gondrel.core.formats.step.records import Record
from gondrel.core.formats.step.styled import STYLED_ITEMS, StylePart, item_of, parts_of_style, same_colour
from gondrel.core.model.appearance import BACK, Appearance
from gondrel.core.model.beneath import bodies_beneath
from gondrel.core.model.body import Body, BodyKind, Rgba
from gondrel.core.model.product import Occurrence
from gondrel.core.model.snapshot import Model

__all__ = ["with_item_appearance"]

Styled = tuple[int, StylePart]
"""A styled item's record and one look that it gives."""


def with_item_appearance(builder: ModelBuilder, model: Model) -> Model:
    """The model with what is said of looks besides; the records that say so are noted as taken."""
    return _ItemAppearance(builder, model).model()


class _ItemAppearance:
    def __init__(self, builder: ModelBuilder, model: Model) -> None:
        self.builder, self.before = builder, model
        self.records = builder.records
        self.everywhere: defaultdict[int, list[Styled]] = defaultdict(list)
        self.in_places: defaultdict[int, list[tuple[int, Styled]]] = defaultdict(list)
        for item in self.records.of(*STYLED_ITEMS):
            styles, target = item_of(item)
            for part in parts_of_style(self.records, styles):
                use = self._use_of(item, part)
                if use:
                    self.in_places[use].append((target, (item.number, part)))
                elif use is not None:
                    self.everywhere[target].append((item.number, part))

    def model(self) -> Model:
        model = self.before
        if not self.everywhere and not self.in_places:
            return model
        whole = self._of_representations()
        products = []
        for product in model.products:
            bodies = tuple(self._body(body, whole) for body in product.bodies)
            products.append(replace(product, bodies=bodies))
        model = replace(model, products=tuple(products))
        if self.in_places:
            places = _Places(self, model)
            products = [
                replace(p, occurrences=tuple(places.use(o) for o in p.occurrences)) for p in model.products
            ]
            model = replace(model, products=tuple(products))
        return model

    def take(self, styled: Styled) -> None:
        """Note what gives a look as taken."""
        number, part = styled
        self.builder.graph.taken.add(number)
        self.builder.serving.update(part.numbers)

    def _use_of(self, item: Record, part: StylePart) -> int | None:
        """The usage in whose place alone a style is given, 0 where it is given everywhere, None where that
        place is not a single component."""
        if part.context:
            return self.builder.uses_of_places.get(part.context)
        if item.keyword != "CONTEXT_DEPENDENT_OVER_RIDING_STYLED_ITEM":
            return 0
        steps = item.refs(4)
        return self.builder.uses_of_places.get(steps[0]) if len(steps) == 1 else None

    # --- bodies --------------------------------------------------------------------------------------

    def _of_representations(self) -> dict[str, Styled]:
        """The colour of the whole shape, by the ids of the bodies that have none of their own."""
        by_body: dict[str, Styled] = {}
        for definition, product in self.builder.by_record.items():
            if product not in self.before.by_id:
                continue
            for number in self.builder.shapes.representations(definition):
                styled = next((s for s in self.everywhere.get(number, ()) if s[1].colour is not None), None)
                for body in self.before.product(product).bodies if styled is not None else ():
                    if body.colour is None and not body.face_colours:
                        by_body[body.id] = styled  # type: ignore[assignment]
        return by_body

    def _body(self, body: Body, whole: dict[str, Styled]) -> Body:
        number = self.builder.numbers.get(body.id, 0)
        own = self.everywhere.get(number, [])
        is_thin = body.kind in (BodyKind.WIRE, BodyKind.POINT)
        targets = (self.builder.sources.get(body.id, (0, ()))[0], number) if is_thin else ()
        by_record = (s for n in targets for s in self.everywhere.get(n, ()) if s[1].colour is not None)
        alone = next(by_record, None) or whole.get(body.id)
        if alone is not None and body.colour is None:
            self.take(alone)
            body = replace(body, colour=alone[1].colour)
        body = replace(body, colour=self._front(own) or body.colour, appearance=tuple(self._further(own)))
        return self._edges(self._faces(body))

    def _front(self, styled: list[Styled]) -> Rgba | None:
        """The colour of the outer side where the inner one has another."""
        is_sided = any(part.look is not None and part.look.aspect == BACK for _, part in styled)
        return next((p.colour for _, p in styled if p.colour is not None), None) if is_sided else None

    def _further(self, styled: list[Styled]) -> Iterator[Appearance]:
        """The looks that an item has beside its colour, the first of each aspect."""
        seen: set[str] = set()
        for each in styled:
            look = each[1].look
            if look is not None and look.aspect not in seen:
                seen.add(look.aspect)
                self.take(each)
                yield look

    def _faces(self, body: Body) -> Body:
        looks: list[tuple[int, Appearance]] = []
        colours = dict(body.face_colours)
        is_alone = body.id in self.builder.alone
        for face, place in self.builder.face_places(body).items():
            styled = self.everywhere.get(face, [])
            looks += [(place, look) for look in self._further(styled)]
            front = self._front(styled)
            if front is None and is_alone:
                front = next((part.colour for _, part in styled if part.colour is not None), None)
            if front is not None and front != body.colour:
                colours[place] = front
        if not looks and not is_alone:
            return body
        return replace(body, face_appearance=tuple(sorted(looks, key=lambda each: each[0])),
                       face_colours=tuple(sorted(colours.items(), key=lambda each: each[0])))  # fmt: skip

    def _edges(self, body: Body) -> Body:
        colours: dict[int, Rgba] = {}
        for number, place in self.builder.styled_edges.get(body.id, ()):
            for styled in self.everywhere.get(number, ()):
                if styled[1].colour is not None and place not in colours:
                    colours[place] = styled[1].colour
                    self.take(styled)
        return replace(body, edge_colours=tuple(sorted(colours.items()))) if colours else body


class _Places:
    """Colours that bodies and faces have in one place alone."""

    def __init__(self, looks: _ItemAppearance, model: Model) -> None:
        self.looks, self.model = looks, model
        self.of_bodies: defaultdict[int, list[Body]] = defaultdict(list)
        self.faces: dict[int, tuple[Body, int]] = {}
        for _, body in model.bodies():
            self.of_bodies[looks.builder.numbers.get(body.id, 0)].append(body)
            self.faces.update((f, (body, n)) for f, n in looks.builder.face_places(body).items())
        self.of_bodies.pop(0, None)

    def use(self, use: Occurrence) -> Occurrence:
        styled = self.looks.in_places.get(self.looks.builder.numbers.get(use.id, 0), [])
        if not styled:
            return use
        beneath = {body.id for body in bodies_beneath(self.model, use.product)}
        colours: dict[tuple[str, int], Rgba] = {}
        for target, each in styled:
            colour = each[1].colour
            for body, face in self._targets(target):
                if colour is not None and body.id in beneath:
                    colours.setdefault((body.id, face), colour)
                    self.looks.take(each)
        whole = {body: colour for (body, face), colour in colours.items() if face < 0}
        first = next(iter(whole.values()), None)
        is_all = first is not None and set(whole) == beneath
        is_all = is_all and all(first is not None and same_colour(c, first) for c in whole.values())
        own = [(*key, c) for key, c in sorted(colours.items(), key=lambda each: each[0])
               if key[1] >= 0 or not is_all]  # fmt: skip
        # The kernel takes the style of a face in one place for that of all that stands there.
        colour = first if is_all else None if colours else use.colour
        return replace(use, colour=colour, own_colours=tuple(own))

    def _targets(self, number: int) -> Iterator[tuple[Body, int]]:
        if number in self.faces:
            yield self.faces[number]
        for body in self.of_bodies.get(number, ()):
            yield body, -1

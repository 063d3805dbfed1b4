"""Colours, transparency and layers as presentation records.

Source: ISO 10303-46 (styled_item, surface_style_usage, presentation_layer_assignment). Colour of
one occurrence: an overriding style whose context is a representation tied to the usage's shape,
common practice of the trade.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable

from gondrel.core.formats.step.compose import Composer, ref
from gondrel.core.formats.step.tokens import Enumeration, Typed
from gondrel.core.formats.step.write_bodies import WrittenBody
from gondrel.core.model.body import Body, Rgba
from gondrel.core.model.particulars import Particular

__all__ = ["Looks"]

_NO_STYLE = Typed("NULL_STYLE", (Enumeration("NULL"),))


class Looks:
    """Collects the styles of a file and writes them."""

    def __init__(self, composer: Composer, context: int) -> None:
        self.composer = composer
        self.context = context
        self.styled: list[int] = []
        self.layers: defaultdict[str, list[int]] = defaultdict(list)
        self.hidden: list[int] = []

    def body(self, body: Body, written: WrittenBody) -> int:
        """Style a body and its faces; returns the number of the body's own style, 0 without one."""
        base = 0
        if body.colour is not None:
            for item in written.items:
                base = self._styled("STYLED_ITEM", body.colour, item)
        for index, colour in body.face_colours:
            if index >= len(written.faces):
                continue
            face = written.faces[index]
            if base:
                self._styled("OVER_RIDING_STYLED_ITEM", colour, face, ref(base))
            else:
                self._styled("STYLED_ITEM", colour, face)
        return base

    def layer(self, body: Body, written: WrittenBody) -> None:
        """Put a body on its layers."""
        for layer in body.layers:
            self.layers[layer].extend(written.items)
        for index, layer in body.face_layers:
            if index < len(written.faces):
                self.layers[layer].append(written.faces[index])

    def hide(self, body: Body, written: WrittenBody, base: int) -> None:
        """Mark a body as hidden, by its style; one that says nothing where it has none."""
        if not body.hidden:
            return
        styled = [base] if base else [self._unstyled(item) for item in written.items]
        self.hidden += styled

    def _unstyled(self, item: int) -> int:
        style = self.composer.share("PRESENTATION_STYLE_ASSIGNMENT", (_NO_STYLE,))
        number = self.composer.add("STYLED_ITEM", "", (ref(style),), ref(item))
        self.styled.append(number)
        return number

    def occurrence(
        self,
        colour: Rgba | None,
        shape: int,
        items: tuple[int, ...],
        base: int,
        placement: int,
        *,
        hidden: bool = False,
    ) -> None:
        """Override the colour of one occurrence of a part, or hide it.

        Args:
            shape: the product definition shape of the usage.
            items: the part's bodies; base: the part's own style or 0.
            placement: the axis placement of the occurrence in its parent.
        """
        add = self.composer.add
        holder = add("SHAPE_REPRESENTATION", "", (ref(placement),), ref(self.context))
        add("SHAPE_DEFINITION_REPRESENTATION", ref(shape), ref(holder))
        usage = ref(self._usage(colour)) if colour is not None else _NO_STYLE
        style = add("PRESENTATION_STYLE_BY_CONTEXT", (usage,), ref(holder))
        for item in items:
            if base:
                styled = add(
                    "OVER_RIDING_STYLED_ITEM",
                    "overriding color",
                    (ref(style),),
                    ref(item),
                    ref(base),
                )
            else:
                styled = add("STYLED_ITEM", "color", (ref(style),), ref(item))
            self.styled.append(styled)
            if hidden:
                self.hidden.append(styled)

    def finish(self, of_layers: Iterable[Particular] = ()) -> None:
        """Write what belongs at the end: the presentation, the layers and what is hidden.

        Args:
            of_layers: what is said of layers beside their names.
        """
        if self.styled:
            self.composer.add(
                "MECHANICAL_DESIGN_GEOMETRIC_PRESENTATION_REPRESENTATION",
                "",
                tuple(ref(n) for n in self.styled),
                ref(self.context),
            )
        texts = {p.values[0]: p.values[1] for p in of_layers if p.kind == "layer description"}
        unseen = {p.values[0] for p in of_layers if p.kind == "hidden layer"}
        for name, items in self.layers.items():
            listed = tuple(ref(n) for n in items)
            number = self.composer.add("PRESENTATION_LAYER_ASSIGNMENT", name, texts.get(name, ""), listed)
            if name in unseen:
                self.hidden.append(number)
        if self.hidden:
            self.composer.add("INVISIBILITY", tuple(ref(n) for n in self.hidden))

    def _styled(self, keyword: str, colour: Rgba, item: int, *rest: object) -> int:
        style = self.composer.share("PRESENTATION_STYLE_ASSIGNMENT", (ref(self._usage(colour)),))
        name = "color" if keyword == "STYLED_ITEM" else "overriding color"
        number = self.composer.add(keyword, name, (ref(style),), ref(item), *rest)  # type: ignore[arg-type]
        self.styled.append(number)
        return number

    def _usage(self, colour: Rgba) -> int:
        share = self.composer.share
        rgb = ref(share("COLOUR_RGB", "", colour.red, colour.green, colour.blue))
        fill = ref(share("FILL_AREA_STYLE_COLOUR", "", rgb))
        area = ref(share("FILL_AREA_STYLE", "", (fill,)))
        parts = [ref(share("SURFACE_STYLE_FILL_AREA", area))]
        if colour.alpha < 1.0:
            clear = ref(share("SURFACE_STYLE_TRANSPARENT", round(1.0 - colour.alpha, 6)))
            parts.append(
                ref(
                    share(
                        "SURFACE_STYLE_RENDERING_WITH_PROPERTIES",
                        Enumeration("NORMAL_SHADING"),
                        rgb,
                        (clear,),
                    )
                )
            )
        side = ref(share("SURFACE_SIDE_STYLE", "", tuple(parts)))
        return share("SURFACE_STYLE_USAGE", Enumeration("BOTH"), side)

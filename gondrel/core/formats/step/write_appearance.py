"""Colours, transparency and layers as presentation records.

Source: ISO 10303-46 (styled_item, surface_style_usage, presentation_layer_assignment). Colour of
one occurrence: an overriding style whose context is a representation tied to the usage's shape,
common practice of the trade.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable

from gondrel.core.formats.step.compose import RecordComposer, ref
from gondrel.core.formats.step.tokens import Enumeration, Typed
from gondrel.core.formats.step.write_bodies import WrittenItems
from gondrel.core.model.appearance import BACK, REFLECTANCE, Appearance, reflectance_values
from gondrel.core.model.body import Body, BodyKind, Rgba
from gondrel.core.model.particulars import Particular

__all__ = ["Looks"]

_LINE_WIDTH = 0.1
"""Width of curves and size of points on screen, which the records must say and the model does not hold."""

_RENDERING = "SURFACE_STYLE_RENDERING_WITH_PROPERTIES"
_AMBIENT = "SURFACE_STYLE_REFLECTANCE_AMBIENT"
_REFLECTANCES = {1: _AMBIENT, 2: f"{_AMBIENT}_DIFFUSE", 4: f"{_AMBIENT}_DIFFUSE_SPECULAR"}
"""Records of a reflectance by how many shares it says."""

_NO_STYLE = Typed("NULL_STYLE", (Enumeration("NULL"),))


class Looks:
    """Collects the styles of a file and writes them."""

    def __init__(self, composer: RecordComposer, context: int) -> None:
        self.composer = composer
        self.context = context
        self.styled: list[int] = []
        self.layers: defaultdict[str, list[int]] = defaultdict(list)
        self.hidden: list[int] = []

    def body(self, body: Body, written: WrittenItems) -> int:
        """Style a body, its faces and edges; returns the number of the body's own style, 0 without one."""
        base = 0
        if body.colour is not None:
            style = self._style(body.kind, body.colour, body.appearance)
            for item in written.shown:
                base = self._styled(style, item)
        looks: defaultdict[int, list[Appearance]] = defaultdict(list)
        for index, look in body.face_appearance:
            looks[index].append(look)
        colours = dict(body.face_colours)
        for index in sorted({*colours, *looks}):
            colour = colours.get(index, body.colour)
            if index < len(written.faces) and colour is not None:
                style = self._style(body.kind, colour, looks.get(index, ()))
                self._styled(style, written.faces[index], base)
        for index, colour in body.edge_colours:
            if index in written.edges:
                self._styled(self._style(BodyKind.WIRE, colour), written.edges[index])
        return base

    def layer(self, body: Body, written: WrittenItems) -> None:
        """Put a body on its layers."""
        for layer in body.layers:
            self.layers[layer].extend(written.items)
        for index, layer in body.face_layers:
            if index < len(written.faces):
                self.layers[layer].append(written.faces[index])

    def hide(self, body: Body, written: WrittenItems, base: int) -> None:
        """Mark a body as hidden, by its style; one that says nothing where it has none."""
        if not body.hidden:
            return
        styled = [base] if base else [self._unstyled(item) for item in written.shown]
        self.hidden += styled

    def _unstyled(self, item: int) -> int:
        style = self.composer.share("PRESENTATION_STYLE_ASSIGNMENT", (_NO_STYLE,))
        number = self.composer.add("STYLED_ITEM", "", (ref(style),), ref(item))
        self.styled.append(number)
        return number

    def place(self, shape: int, placement: int) -> int:
        """What stands for the place of a component where styles hold in it alone.

        Args:
            shape: the product definition shape of the usage; placement: its axis placement in the parent.
        """
        add = self.composer.add
        holder = add("SHAPE_REPRESENTATION", "", (ref(placement),), ref(self.context))
        add("SHAPE_DEFINITION_REPRESENTATION", ref(shape), ref(holder))
        return holder

    def in_place(
        self, place: int, colour: Rgba | None, items: tuple[int, ...], base: int, *, hidden: bool = False
    ) -> None:
        """Override the colour of some items in one place, or hide them there.

        Args:
            place: as `place` returned it; base: the part's own style or 0.
        """
        usage = ref(self._usage(colour)) if colour is not None else _NO_STYLE
        style = self.composer.share("PRESENTATION_STYLE_BY_CONTEXT", (usage,), ref(place))
        for item in items:
            styled = self._styled(style, item, base)
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

    def _styled(self, style: int, item: int, base: int = 0) -> int:
        """Give an item a style, over another one where it has that; the number of the styled item."""
        over = ("OVER_RIDING_STYLED_ITEM", "overriding color"), (ref(base),)
        (keyword, name), rest = over if base else (("STYLED_ITEM", "color"), ())
        number = self.composer.add(keyword, name, (ref(style),), ref(item), *rest)
        self.styled.append(number)
        return number

    def _style(self, kind: BodyKind, colour: Rgba, looks: Iterable[Appearance] = ()) -> int:
        """The style of surfaces, curves or points, as the kind of body has them."""
        share = self.composer.share
        size = Typed("POSITIVE_LENGTH_MEASURE", (_LINE_WIDTH,))
        rgb = ref(self._rgb(colour))
        if kind is BodyKind.WIRE:
            font = ref(share("DRAUGHTING_PRE_DEFINED_CURVE_FONT", "continuous"))
            usages = [share("CURVE_STYLE", "", font, size, rgb)]
        elif kind is BodyKind.POINT:
            marker = ref(share("PRE_DEFINED_POINT_MARKER_SYMBOL", "dot"))
            usages = [share("POINT_STYLE", "", marker, size, rgb)]
        else:
            said = {look.aspect: look.value for look in looks}
            back = said.get(BACK)
            side = "BOTH" if back is None else "POSITIVE"
            usages = [self._usage(colour, side, said.get(REFLECTANCE, ""))]
            if back is not None:
                usages.append(self._usage(Rgba.from_hex(back, colour.alpha), "NEGATIVE"))
        return share("PRESENTATION_STYLE_ASSIGNMENT", tuple(ref(usage) for usage in usages))

    def _rgb(self, colour: Rgba) -> int:
        return self.composer.share("COLOUR_RGB", "", colour.red, colour.green, colour.blue)

    def _usage(self, colour: Rgba, of: str = "BOTH", reflectance: str = "") -> int:
        share = self.composer.share
        rgb = ref(self._rgb(colour))
        fill = ref(share("FILL_AREA_STYLE_COLOUR", "", rgb))
        area = ref(share("FILL_AREA_STYLE", "", (fill,)))
        parts = [ref(share("SURFACE_STYLE_FILL_AREA", area))]
        properties = []
        if colour.alpha < 1.0:
            properties.append(ref(share("SURFACE_STYLE_TRANSPARENT", round(1.0 - colour.alpha, 6))))
        if reflectance:
            properties.append(ref(self._reflectance(reflectance)))
        if properties:
            shading = Enumeration("NORMAL_SHADING")
            parts.append(ref(share(_RENDERING, shading, rgb, tuple(properties))))
        side = ref(share("SURFACE_SIDE_STYLE", "", tuple(parts)))
        return share("SURFACE_STYLE_USAGE", Enumeration(of), side)

    def _reflectance(self, text: str) -> int:
        shares, specular = reflectance_values(text)
        colour = (ref(self._rgb(Rgba.from_hex(specular))),) if specular else ()
        return self.composer.share(_REFLECTANCES[len(shares)], *shares, *colour)

"""Colours that bodies and their faces have in one place alone, as the picture shows them."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import replace

from gondrel.core.model.body import Body, Rgba
from gondrel.core.model.snapshot import Model

__all__ = ["OwnColours"]


class OwnColours:
    """The colours of single places of a model, by component and body."""

    def __init__(self, model: Model) -> None:
        self._of: defaultdict[str, dict[str, dict[int, Rgba]]] = defaultdict(dict)
        for use in model.told_uses:
            for body, face, colour in use.own_colours:
                self._of[use.id].setdefault(body, {})[face] = colour

    def worn(self, body: Body, path: tuple[str, ...]) -> tuple[Body, str]:
        """The body as it is coloured at the end of a path, and which component says so; empty for none."""
        if not self._of:
            return body, ""
        for step in path:  # what is said from further above holds
            own = self._of[step].get(body.id) if step in self._of else None
            if own:
                faces = dict(body.face_colours) if -1 not in own else {}
                faces |= {face: colour for face, colour in own.items() if face >= 0}
                whole = own.get(-1, body.colour)
                return replace(body, colour=whole, face_colours=tuple(sorted(faces.items()))), step
        return body, ""

"""Which record the one body of a product comes from, by the records alone.

The kernel finds the record of a shape by going through everything it transferred, for each shape anew;
where a product has one body, what stands in its representation says the same at once.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator

from OCP.StepBasic import StepBasic_ProductDefinition
from OCP.StepRepr import StepRepr_Representation, StepRepr_ShapeRepresentationRelationship
from OCP.StepShape import (
    StepShape_ConnectedFaceSet,
    StepShape_ManifoldSolidBrep,
    StepShape_ShapeDefinitionRepresentation,
    StepShape_ShellBasedSurfaceModel,
)
from OCP.TopAbs import TopAbs_ShapeEnum

__all__ = ["single_origins"]

_NO_BODIES = frozenset({"StepGeom_Axis2Placement3d", "StepGeom_CartesianPoint"})


def single_origins(
    definitions: Iterable[object], relations: Iterable[object]
) -> dict[int, dict[TopAbs_ShapeEnum, object]]:
    """The record of the body of each product that has one, by the kind of shape it becomes, by the identity
    of the product definition's record.

    Args:
        definitions: the shape definition representations of a file; relations: its shape representation
            relationships.
    """
    beside: defaultdict[int, list[object]] = defaultdict(list)
    for relation in relations:
        if type(relation) is StepRepr_ShapeRepresentationRelationship:  # one with a transformation places
            plain: StepRepr_ShapeRepresentationRelationship = relation
            one, other = plain.Rep1(), plain.Rep2()
            beside[id(one)].append(other)
            beside[id(other)].append(one)
    found: dict[int, dict[TopAbs_ShapeEnum, object]] = {}
    doubtful: set[int] = set()
    for link in definitions:
        product = _product_of(link)
        if product is None:
            continue
        key = id(product)
        if key in found or key in doubtful:
            doubtful.add(key)
            continue
        used = link.UsedRepresentation()  # type: ignore[attr-defined]
        items = [item for rep in (used, *beside[id(used)]) for item in _items(rep)]
        if len(items) == 1 and (origin := _origin(items[0])):
            found[key] = origin
        else:
            doubtful.add(key)
    return {key: origin for key, origin in found.items() if key not in doubtful}


def _product_of(link: object) -> object | None:
    if not isinstance(link, StepShape_ShapeDefinitionRepresentation):
        return None
    definition = link.Definition().PropertyDefinition()
    product = definition.Definition().ProductDefinition() if definition is not None else None
    return product if isinstance(product, StepBasic_ProductDefinition) else None


def _items(representation: object) -> Iterator[object]:
    """Items of a representation but placements."""
    if isinstance(representation, StepRepr_Representation):
        for place in range(1, representation.NbItems() + 1):
            item = representation.ItemsValue(place)
            if type(item).__name__ not in _NO_BODIES:
                yield item


def _origin(item: object) -> dict[TopAbs_ShapeEnum, object]:
    """Records of the shapes that an item becomes, where it becomes one body."""
    if isinstance(item, StepShape_ManifoldSolidBrep):
        return {TopAbs_ShapeEnum.TopAbs_SOLID: item}
    if isinstance(item, StepShape_ShellBasedSurfaceModel) and item.NbSbsmBoundary() == 1:
        boundary = item.SbsmBoundaryValue(1)
        shell = boundary.OpenShell() or boundary.ClosedShell()
        if isinstance(shell, StepShape_ConnectedFaceSet):
            one = {TopAbs_ShapeEnum.TopAbs_SHELL: shell}
            if shell.NbCfsFaces() == 1:
                one[TopAbs_ShapeEnum.TopAbs_FACE] = shell.CfsFacesValue(1)
            return one
    return {}

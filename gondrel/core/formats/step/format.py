"""Declaration of the STEP format and of what each protocol can hold."""

from __future__ import annotations

from gondrel.core.formats.base import Format, Target
from gondrel.core.model.carries import FILE_DESCRIPTION, READ, Carries

__all__ = ["FORMAT"]

_REFERENCES = ("coordinate system ", "coordinate system#", "axis ", "axis#", "plane ", "plane#", "point ",
               "point#")  # fmt: skip
_EDITION_1 = "AP203 edition 1 has no place for it"
_NOT_IN_203 = ("colours", "layers", "materials", "metadata", "validation")

_ASSIGNED = tuple(f"said: {kind}" for kind in ("alias", "number at a source", "further name"))
_NO_SHAPE_ASPECT = "it has no usage of single items by an aspect of the shape"
_MANAGED = "AP242_MANAGED_MODEL_BASED_3D_ENGINEERING_MIM_LF"
_OF_COMPONENT = "on layer ", "STEP puts bodies and faces on layers, not components"
_ONLY_SYSTEMS = "only coordinate systems are written; constructive geometry came with AP242"

_AP203 = Carries(
    things=frozenset(READ) - frozenset(_NOT_IN_203),
    reasons=tuple((thing, f"{_EDITION_1} (ISO 10303-203:1994)") for thing in _NOT_IN_203),
    also=(
        "description",
        FILE_DESCRIPTION,
        "said: definition",
        "said: revision",
        "said: component description",
        "said: make or buy",
        "said: category",
        "said: document",
        "said: person",
        "said: moment",
        "said: approval",
        "said: security class",
        "said: certification",
        "said: contract",
    ),
    without=(
        *((start, f"{_EDITION_1} (ISO 10303-203:1994)") for start in _ASSIGNED),
        *((word, "reference geometry is not written to AP203") for word in _REFERENCES),
    ),
    remarks=(
        "AP203 demands people, dates and approvals; where a product has none they are written from the "
        "settings.",
    ),
)
_AP214 = Carries(
    things=frozenset(READ),
    metadata_kinds=frozenset(("text", "integer", "real")),
    occurrence_metadata=True,
    measures=True,
    without=(
        _OF_COMPONENT,
        ("face properties", _NO_SHAPE_ASPECT),
        ("property ", _NO_SHAPE_ASPECT),
        *((word, _ONLY_SYSTEMS) for word in _REFERENCES[2:]),
    ),
)
_AP242 = Carries(
    things=frozenset(READ),
    metadata_kinds=frozenset(("text", "integer", "real", "boolean")),
    occurrence_metadata=True,
    measures=True,
    without=(_OF_COMPONENT,),
)

FORMAT = Format(
    key="step",
    title="STEP",
    suffixes=(".stp", ".step", ".p21"),
    starts=(b"ISO-10303-21",),
    card="gondrel.core.formats.step.card:read_card",
    read="gondrel.core.formats.step.read:read",
    source="gondrel.core.formats.step.source:open_source",
    structure="gondrel.core.formats.step.later:read_structure",
    shapes="gondrel.core.formats.step.later:read_shapes",
    write="gondrel.core.formats.step.write:write",
    foresee="gondrel.core.formats.step.foresee:foresee",
    link="gondrel.core.formats.step.write:write_linked",
    names="gondrel.core.formats.step.external:product_names",
    order=0,
    never="mates, history, parameters, cosmetic threads and drawings",
    targets=(
        Target(
            "step-ap242",
            "STEP AP242",
            ".stp",
            _AP242,
            f"{_MANAGED} {{ 1 0 10303 442 1 1 4 }}",
            note="Keeps everything, typed metadata too",
        ),
        Target(
            "step-ap242ed2",
            "STEP AP242, edition 2",
            ".stp",
            _AP242,
            f"{_MANAGED} {{ 1 0 10303 442 3 1 4 }}",
            note="As AP242, for readers that look for the second edition",
        ),
        Target(
            "step-ap242ed3",
            "STEP AP242, edition 3",
            ".stp",
            _AP242,
            f"{_MANAGED} {{ 1 0 10303 442 4 1 4 }}",
            note="As AP242, for readers that look for the third edition",
        ),
        Target(
            "step-ap214",
            "STEP AP214",
            ".stp",
            _AP214,
            "AUTOMOTIVE_DESIGN { 1 0 10303 214 1 1 1 1 }",
            note="Keeps all but true/false metadata values",
        ),
        Target(
            "step-ap203ed2",
            "STEP AP203, edition 2",
            ".stp",
            _AP214,
            "AP203_CONFIGURATION_CONTROLLED_3D_DESIGN_OF_MECHANICAL_PARTS_AND_ASSEMBLIES_MIM_LF "
            "{ 1 0 10303 403 2 1 2 }",
            note="As AP214, for readers of the second edition of AP203",
        ),
        Target(
            "step-ap203",
            "STEP AP203",
            ".stp",
            _AP203,
            "CONFIG_CONTROL_DESIGN",
            links=False,
            note="First edition: shape, structure, names, revisions",
        ),
    ),
)

"""Contexts, units, header and the administrative records that each protocol demands.

Source: ISO 10303-41 (application_context, units), ISO 10303-203:1994 clause 4 (people, dates,
approvals and security classification of every product; from memory), ISO 10303-21 clause 8.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from gondrel import __version__
from gondrel.core.formats.settings import SendSettings
from gondrel.core.formats.step.assignments import AssignmentWriter
from gondrel.core.formats.step.compose import RecordComposer, ref
from gondrel.core.formats.step.tokens import Enumeration, Typed, encode_string
from gondrel.core.model.units import LengthUnit

__all__ = ["Frame", "add_frame", "add_people_and_approvals", "header"]


@dataclass(frozen=True, slots=True)
class Protocol:
    """What a file of an application protocol says it is, and which of its own ways it has.

    Args:
        purpose, schema, year: of its application context and protocol definition.
        first_203: whether it demands the people, dates and approvals of AP203's first edition.
        items: whether single items of a shape have properties and reference geometry of every kind.
    """

    purpose: str
    schema: str
    year: int
    first_203: bool = False
    items: bool = False


_DESIGN_3D = "configuration controlled 3D designs of mechanical parts and assemblies"
_MANAGED = "managed model based 3d engineering", "ap242_managed_model_based_3d_engineering"
_PROTOCOLS = {
    "step-ap203": Protocol(_DESIGN_3D, "config_control_design", 1994, first_203=True),
    "step-ap203ed2": Protocol(
        _DESIGN_3D, "ap203_configuration_controlled_3d_design_of_mechanical_parts_and_assemblies", 2011
    ),
    "step-ap214": Protocol(
        "core data for automotive mechanical design processes", "automotive_design", 2000
    ),
    "step-ap242": Protocol(*_MANAGED, 2013, items=True),
    "step-ap242ed2": Protocol(*_MANAGED, 2020, items=True),
    "step-ap242ed3": Protocol(*_MANAGED, 2022, items=True),
}


def protocol_of(kind: str) -> Protocol:
    """The protocol of a kind of target. Source: the editions of ISO 10303-203, -214, -242; the years are
    those of their publication."""
    return _PROTOCOLS[kind]


_UNCERTAINTY_MM = 1e-7


@dataclass(frozen=True, slots=True)
class Frame:
    """Numbers of the records that everything else hangs on."""

    product_context: int
    definition_context: int
    context: int
    length: int
    origin: int


def add_frame(composer: RecordComposer, kind: str, unit: LengthUnit) -> Frame:
    """Write contexts and units."""
    add = composer.add
    protocol = protocol_of(kind)
    application = add("APPLICATION_CONTEXT", protocol.purpose)
    standing = "international standard"
    add("APPLICATION_PROTOCOL_DEFINITION", standing, protocol.schema, protocol.year, ref(application))
    first_edition = protocol.first_203
    product = add(
        "MECHANICAL_CONTEXT" if first_edition else "PRODUCT_CONTEXT",
        "",
        ref(application),
        "mechanical",
    )
    definition = add(
        "DESIGN_CONTEXT" if first_edition else "PRODUCT_DEFINITION_CONTEXT",
        "part definition",
        ref(application),
        "design",
    )
    length = _length_unit(composer, unit)
    radian = composer.add_text("(NAMED_UNIT(*) PLANE_ANGLE_UNIT() SI_UNIT($,.RADIAN.))")
    steradian = composer.add_text("(NAMED_UNIT(*) SI_UNIT($,.STERADIAN.) SOLID_ANGLE_UNIT())")
    fine = Typed("LENGTH_MEASURE", (_UNCERTAINTY_MM / unit.mm,))
    uncertainty = add(
        "UNCERTAINTY_MEASURE_WITH_UNIT",
        fine,
        ref(length),
        "distance_accuracy_value",
        "confusion accuracy",
    )
    context = composer.add_text(
        f"(GEOMETRIC_REPRESENTATION_CONTEXT(3) GLOBAL_UNCERTAINTY_ASSIGNED_CONTEXT((#{uncertainty})) "
        f"GLOBAL_UNIT_ASSIGNED_CONTEXT((#{length},#{radian},#{steradian})) "
        "REPRESENTATION_CONTEXT('','3D'))"
    )
    origin = add_axes(composer, (0.0, 0.0, 0.0), (0.0, 0.0, 1.0), (1.0, 0.0, 0.0))
    return Frame(product, definition, context, length, origin)


def add_axes(
    composer: RecordComposer,
    origin: tuple[float, ...],
    axis: tuple[float, ...],
    reference: tuple[float, ...],
    name: str = "",
) -> int:
    """An axis placement from an origin in file units and two unit vectors."""
    point = composer.add("CARTESIAN_POINT", "", origin)
    z = composer.share("DIRECTION", "", axis)
    x = composer.share("DIRECTION", "", reference)
    return composer.add("AXIS2_PLACEMENT_3D", name, ref(point), ref(z), ref(x))


def _length_unit(composer: RecordComposer, unit: LengthUnit) -> int:
    if not unit.step_name:
        prefix = f".{unit.si_prefix}." if unit.si_prefix else "$"
        return composer.add_text(f"(LENGTH_UNIT() NAMED_UNIT(*) SI_UNIT({prefix},.METRE.))")
    millimetre = composer.add_text("(LENGTH_UNIT() NAMED_UNIT(*) SI_UNIT(.MILLI.,.METRE.))")
    exponents = composer.add("DIMENSIONAL_EXPONENTS", 1.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0)
    size = Typed("LENGTH_MEASURE", (unit.mm,))
    measure = composer.add("LENGTH_MEASURE_WITH_UNIT", size, ref(millimetre))
    name = encode_string(unit.step_name)
    return composer.add_text(
        f"(CONVERSION_BASED_UNIT({name},#{measure}) LENGTH_UNIT() NAMED_UNIT(#{exponents}))"
    )


def _moment(composer: RecordComposer, when: datetime) -> int:
    """The record of a date and time, UTC."""
    add = composer.add
    day = add("CALENDAR_DATE", when.year, when.day, when.month)
    zone = add("COORDINATED_UNIVERSAL_TIME_OFFSET", 0, None, Enumeration("AHEAD"))
    clock = add("LOCAL_TIME", when.hour, when.minute, float(when.second), ref(zone))
    return add("DATE_AND_TIME", ref(day), ref(clock))


def add_people_and_approvals(
    composer: RecordComposer,
    settings: SendSettings,
    when: datetime,
    products: list[int],
    formations: list[int],
    definitions: list[int],
    said: AssignmentWriter,
) -> None:
    """What AP203 edition 1 demands of every product: people, dates, approval, classification.

    Args:
        said: what is said of products already; it is not said again.
    """
    add = composer.add
    person = add("PERSON", "1", settings.author or "not given", None, None, None, None)
    firm = add("ORGANIZATION", "1", settings.organisation or "not given", "")
    both = add("PERSON_AND_ORGANIZATION", ref(person), ref(firm))
    moment = _moment(composer, when)
    level = add("SECURITY_CLASSIFICATION_LEVEL", "unclassified")
    security = add("SECURITY_CLASSIFICATION", "", "", ref(level))
    status = add("APPROVAL_STATUS", "not_yet_approved")
    approval = add("APPROVAL", ref(status), "")

    def listed(*groups: list[int]) -> tuple[object, ...]:
        return tuple(ref(n) for group in groups for n in group)

    def left(kind: str, numbers: list[int], role: str = "") -> list[int]:
        known = said.said_of(kind, role)
        return [n for n in numbers if n not in known]

    def people(role: str, *groups: list[int]) -> None:
        groups = tuple(left("person", group, role) for group in groups)
        if not any(groups):
            return
        named = add("PERSON_AND_ORGANIZATION_ROLE", role)
        add("CC_DESIGN_PERSON_AND_ORGANIZATION_ASSIGNMENT", ref(both), ref(named), listed(*groups))  # type: ignore[arg-type]

    def dated(role: str, *groups: list[int]) -> None:
        groups = tuple(left("moment", group, role) for group in groups)
        if not any(groups):
            return
        named = add("DATE_TIME_ROLE", role)
        add("CC_DESIGN_DATE_AND_TIME_ASSIGNMENT", ref(moment), ref(named), listed(*groups))  # type: ignore[arg-type]

    if classified := left("security class", formations):
        add("CC_DESIGN_SECURITY_CLASSIFICATION", ref(security), listed(classified))  # type: ignore[arg-type]
    approved = [left("approval", group) for group in (formations, definitions)]
    add("CC_DESIGN_APPROVAL", ref(approval), listed([security], *approved))  # type: ignore[arg-type]
    role = add("APPROVAL_ROLE", "approver")
    add("APPROVAL_PERSON_ORGANIZATION", ref(both), ref(approval), ref(role))
    add("APPROVAL_DATE_TIME", ref(moment), ref(approval))
    people("creator", formations, definitions)
    people("design_owner", products)
    people("design_supplier", formations)
    people("classification_officer", [security])
    dated("creation_date", definitions)
    dated("classification_date", [security])


def header(name: str, schema: str, settings: SendSettings, when: datetime, description: str = "") -> str:
    """The file from its first line to the opening of the DATA section.

    Args:
        description: what the file is said to be.
    """
    text = encode_string
    return (
        "ISO-10303-21;\nHEADER;\n"
        f"FILE_DESCRIPTION(({text(description)}),'2;1');\n"
        f"FILE_NAME({text(name)},{text(when.strftime('%Y-%m-%dT%H:%M:%SZ'))},\n"
        f"({text(settings.author)}),({text(settings.organisation)}),\n"
        f"{text(f'Gondrel {__version__}')},{text(settings.system)},'');\n"
        f"FILE_SCHEMA(({text(schema)}));\nENDSEC;\nDATA;\n"
    )

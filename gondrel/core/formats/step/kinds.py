"""What a record of a STEP file is about, in plain words, by its keyword.

Source: the names of entities in ISO 10303-41 to -59 and the application protocols, from memory; a keyword
is told by a part of it, so that those of later editions fall into their place.
"""

from __future__ import annotations

import re

__all__ = ["KINDS", "OTHER", "kind_of_keyword"]

OTHER = "records of other kinds"

_WORDS = (
    ("annotations, dimensions and tolerances",
     "TOLERANCE|DATUM|DIMENSION(?!AL_EXP)|ANNOTATION|CALLOUT|LEADER|TERMINATOR|LIMITS_AND_FITS|SHAPE_ASPECT|"
     "GEOMETRIC_ITEM_SPECIFIC_USAGE|ITEM_IDENTIFIED_REPRESENTATION_USAGE|TEXT_LITERAL|TEXT_STYLE|"
     "DRAUGHTING_(?!PRE_DEFINED)|SURFACE_TEXTURE|TYPE_QUALIFIER|VALUE_FORMAT|PLACED_FEATURE|SYMBOL"),
    ("saved views", "CAMERA|^VIEW_|_VIEW$|VIEW_VOLUME|PRESENTATION_(AREA|SIZE|VIEW|SET)|LIGHT_SOURCE"),
    ("motion and kinematics", "KINEMATIC|MECHANISM|_PAIR($|_)|RIGID_LINK|_JOINT"),
    ("people, dates and approvals",
     "PERSON|ORGANIZATION|APPROVAL|DATE|TIME|SECURITY_CLASS|CERTIFICATION|CONTRACT|ADDRESS|^CC_DESIGN|"
     "ACTION|CHANGE|START_WORK|CALENDAR|COORDINATED_UNIVERSAL"),
    ("documents", "DOCUMENT|EXTERNAL_SOURCE|EXTERNALLY_DEFINED"),
    ("hidden items", "INVISIBILITY"),
    ("layers", "LAYER"),
    ("colours and styles", "STYLE|COLOUR|_FONT|RENDERING|PRESENTATION_REPRESENTATION"),
    ("tessellations", "TESSELLATED|TRIANGULATED|COORDINATES_LIST|CUBIC_BEZIER"),
    ("solids given by their construction",
     "CSG|BOOLEAN_RESULT|^BLOCK$|^SPHERE$|^TORUS$|RIGHT_CIRCULAR|RIGHT_ANGULAR|_AREA_SOLID|_FACE_SOLID|"
     "HALF_SPACE|SOLID_REPLICA|SWEPT_DISK|ELLIPSOID|^WEDGE$|PRIMITIVE"),
    ("solids and surfaces",
     "_BREP|BREP_|SURFACE_MODEL|WIREFRAME_MODEL|GEOMETRIC_(CURVE_)?SET|MAPPED_ITEM|REPRESENTATION_MAP"),
    ("configuration and effectivity", "EFFECTIVITY|CONFIGURATION|PRODUCT_CONCEPT|CONDITION"),
    ("alias numbers and identifications",
     "IDENTIFICATION|ALIAS|NAME_ATTRIBUTE|ID_ATTRIBUTE|DESCRIPTION_ATTR"),
    ("categories and groups", "CATEGORY|CLASSIFICATION|GROUP|^CLASS"),
    ("other relations between products",
     "ALTERNATE|SUBSTITUTE|MAKE_FROM|SUPPLIED|USAGE_OCCURRENCE|PRODUCT_DEFINITION_(RELATIONSHIP|USAGE)|"
     "PRODUCT_DEFINITION_OCCURRENCE|FORMATION_RELATIONSHIP|PRODUCT_RELATIONSHIP"),
    ("properties",
     "PROPERTY|REPRESENTATION_ITEM|MEASURE|MATERIAL|MAKE_OR_BUY|_LITERAL$|ATTRIBUTE"),
    ("products and revisions", "^PRODUCT|FORMATION"),
    ("coordinate systems and reference geometry", "^AXIS[12]_PLACEMENT|CONSTRUCTIVE_GEOMETRY|^PLACEMENT$"),
    ("loose geometry",
     "FACE|EDGE|LOOP|SHELL|SURFACE|CURVE|POINT|DIRECTION|VECTOR|VERTEX|^LINE$|CIRCLE|ELLIPSE|PARABOLA|"
     "HYPERBOLA|POLYLINE|PLANE|AXIS|PATH|CLOTHOID|TRANSFORMATION"),
    ("shapes and their contexts", "REPRESENTATION|CONTEXT|UNIT|APPLICATION|DIMENSIONAL_EXP"),
)  # fmt: skip
_PATTERNS = tuple((kind, re.compile(words)) for kind, words in _WORDS)

KINDS = (*(kind for kind, _ in _WORDS), OTHER)
"""All kinds; what hangs on records of several kinds is counted with the first of them."""


def kind_of_keyword(keyword: str) -> str:
    """The kind of a keyword; that of a complex record's first part that has one."""
    for kind, pattern in _PATTERNS:
        if any(pattern.search(part) for part in keyword.split("+")):
            return kind
    return OTHER

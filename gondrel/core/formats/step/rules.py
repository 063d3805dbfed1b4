"""What the records of some kinds refer to and hold: the rules that a file's records are held against.

Source: ISO 10303-42 (geometry and topology), -43 and -44 (representations and their placing), from memory.
"""

from __future__ import annotations

__all__ = ["ATTRIBUTES", "CLASSES", "IN_SPACE", "NO_REPRESENTATIONS", "RULES", "STYLES"]

_CURVES = (
    "LINE", "CIRCLE", "ELLIPSE", "HYPERBOLA", "PARABOLA", "POLYLINE", "TRIMMED_CURVE", "COMPOSITE_CURVE",
    "B_SPLINE_CURVE", "B_SPLINE_CURVE_WITH_KNOTS", "BEZIER_CURVE", "QUASI_UNIFORM_CURVE", "UNIFORM_CURVE",
    "RATIONAL_B_SPLINE_CURVE", "OFFSET_CURVE_3D", "SURFACE_CURVE", "SEAM_CURVE", "INTERSECTION_CURVE",
    "BOUNDED_SURFACE_CURVE", "PCURVE", "BOUNDED_PCURVE", "CURVE_REPLICA", "BOUNDED_CURVE", "CURVE",
    "CONIC", "CLOTHOID", "COMPOSITE_CURVE_ON_SURFACE", "OUTER_BOUNDARY_CURVE", "BOUNDARY_CURVE",
)  # fmt: skip
_SURFACES = (
    "PLANE", "CYLINDRICAL_SURFACE", "CONICAL_SURFACE", "SPHERICAL_SURFACE", "TOROIDAL_SURFACE",
    "DEGENERATE_TOROIDAL_SURFACE", "SURFACE_OF_LINEAR_EXTRUSION", "SURFACE_OF_REVOLUTION",
    "B_SPLINE_SURFACE", "B_SPLINE_SURFACE_WITH_KNOTS", "BEZIER_SURFACE", "QUASI_UNIFORM_SURFACE",
    "UNIFORM_SURFACE", "RATIONAL_B_SPLINE_SURFACE", "OFFSET_SURFACE", "RECTANGULAR_TRIMMED_SURFACE",
    "CURVE_BOUNDED_SURFACE", "RECTANGULAR_COMPOSITE_SURFACE", "SURFACE_REPLICA", "ORIENTED_SURFACE",
    "BOUNDED_SURFACE", "ELEMENTARY_SURFACE", "SWEPT_SURFACE", "SURFACE", "DUPIN_CYCLIDE_SURFACE",
)  # fmt: skip
_POINTS = ("CARTESIAN_POINT", "POINT_ON_CURVE", "POINT_ON_SURFACE", "POINT_REPLICA", "DEGENERATE_PCURVE")
_PLACES = ("AXIS2_PLACEMENT_3D", "AXIS2_PLACEMENT_2D")
_EDGES = ("EDGE_CURVE", "SUBEDGE", "EDGE")
_LOOPS = ("EDGE_LOOP", "VERTEX_LOOP", "POLY_LOOP", "LOOP")
_BOUNDS = ("FACE_BOUND", "FACE_OUTER_BOUND")
_FACES = ("ADVANCED_FACE", "FACE_SURFACE", "ORIENTED_FACE", "FACE", "SUBFACE")
_SHELLS = ("CLOSED_SHELL", "OPEN_SHELL", "ORIENTED_CLOSED_SHELL", "ORIENTED_OPEN_SHELL",
           "CONNECTED_FACE_SET", "SURFACED_OPEN_SHELL")  # fmt: skip


CLASSES: dict[str, tuple[str, ...]] = {
    "shape": (),  # representations of any kind
    "point": _POINTS, "direction": ("DIRECTION",), "vector": ("VECTOR",), "placement": _PLACES,
    "axis": ("AXIS1_PLACEMENT",), "curve": _CURVES, "surface": _SURFACES,
    "vertex": ("VERTEX_POINT", "VERTEX"), "edge": _EDGES, "oriented edge": ("ORIENTED_EDGE",),
    "loop": _LOOPS, "bound": _BOUNDS, "face": _FACES, "shell": _SHELLS,
    "definition": ("PRODUCT_DEFINITION", "PRODUCT_DEFINITION_WITH_ASSOCIATED_DOCUMENTS"),
    "definition of a shape": ("PRODUCT_DEFINITION_SHAPE",),
    "transformation": ("ITEM_DEFINED_TRANSFORMATION", "CARTESIAN_TRANSFORMATION_OPERATOR_3D"),
    "relation": ("REPRESENTATION_RELATIONSHIP", "SHAPE_REPRESENTATION_RELATIONSHIP",
                 "REPRESENTATION_RELATIONSHIP_WITH_TRANSFORMATION"),
    "other": ("MEASURE_WITH_UNIT", "MEASURE_REPRESENTATION_ITEM"),
}  # fmt: skip

NO_REPRESENTATIONS = ("DEFINITION_REPRESENTATION", "PROPERTY_REPRESENTATION",
                      "CONTEXT_DEPENDENT_SHAPE_REPRESENTATION")  # fmt: skip
"""Ends of names of what is called a representation and only says that something has one."""

_MANY = 1 << 40
Needs = dict[str, tuple[int, int]]

_ELEMENTARY: Needs = {"placement": (1, 1)}
RULES: dict[tuple[str, ...], Needs] = {
    ("MANIFOLD_SOLID_BREP", "FACETED_BREP"): {"shell": (1, 1)},
    ("BREP_WITH_VOIDS",): {"shell": (1, _MANY)},
    ("SHELL_BASED_SURFACE_MODEL",): {"shell": (1, _MANY)},
    ("FACE_BASED_SURFACE_MODEL",): {"shell": (1, _MANY)},
    ("CLOSED_SHELL", "OPEN_SHELL"): {"face": (1, _MANY)},
    ("ORIENTED_CLOSED_SHELL", "ORIENTED_OPEN_SHELL"): {"shell": (1, 1)},
    ("ADVANCED_FACE", "FACE_SURFACE"): {"bound": (1, _MANY), "surface": (1, 1)},
    _BOUNDS: {"loop": (1, 1)},
    ("EDGE_LOOP",): {"oriented edge": (1, _MANY)},
    ("VERTEX_LOOP",): {"vertex": (1, 1)},
    ("POLY_LOOP",): {"point": (3, _MANY)},
    ("ORIENTED_EDGE",): {"edge": (1, 1), "vertex": (0, 2)},
    ("EDGE_CURVE",): {"vertex": (2, 2), "curve": (1, 1)},
    ("VERTEX_POINT",): {"point": (1, 1)},
    ("PLANE", "CYLINDRICAL_SURFACE", "CONICAL_SURFACE", "SPHERICAL_SURFACE", "TOROIDAL_SURFACE",
     "DEGENERATE_TOROIDAL_SURFACE", "CIRCLE", "ELLIPSE", "HYPERBOLA", "PARABOLA"): _ELEMENTARY,
    ("SURFACE_OF_LINEAR_EXTRUSION",): {"curve": (1, 1), "vector": (1, 1)},
    ("SURFACE_OF_REVOLUTION",): {"curve": (1, 1), "axis": (1, 1)},
    ("LINE",): {"point": (1, 1), "vector": (1, 1)},
    ("VECTOR",): {"direction": (1, 1)},
    ("AXIS2_PLACEMENT_3D",): {"point": (1, 1), "direction": (0, 2)},
    ("AXIS2_PLACEMENT_2D",): {"point": (1, 1), "direction": (0, 1)},
    ("AXIS1_PLACEMENT",): {"point": (1, 1), "direction": (0, 1)},
    ("B_SPLINE_CURVE_WITH_KNOTS", "POLYLINE"): {"point": (2, _MANY)},
    ("B_SPLINE_SURFACE_WITH_KNOTS",): {"point": (4, _MANY)},
    ("OFFSET_SURFACE", "RECTANGULAR_TRIMMED_SURFACE"): {"surface": (1, 1)},
    ("ITEM_DEFINED_TRANSFORMATION",): {"placement": (2, 2)},
    ("REPRESENTATION_RELATIONSHIP_WITH_TRANSFORMATION",): {"shape": (2, 2), "transformation": (1, 1)},
    ("CONTEXT_DEPENDENT_SHAPE_REPRESENTATION",): {"relation": (1, 1), "definition of a shape": (1, 1)},
    ("NEXT_ASSEMBLY_USAGE_OCCURRENCE",): {"definition": (2, 2), "other": (0, 1)},
}  # fmt: skip
"""What the records of some kinds refer to, by class, with the least and the most of each; nothing else."""


IN_SPACE = ("AXIS2_PLACEMENT_3D", "AXIS1_PLACEMENT", "VERTEX_POINT")
"""Records whose first reference is to a point with three coordinates."""

ATTRIBUTES = {
    "CARTESIAN_POINT": 2, "DIRECTION": 2, "VECTOR": 3, "LINE": 3, "CIRCLE": 3, "ELLIPSE": 4,
    "HYPERBOLA": 4, "PARABOLA": 3, "POLYLINE": 2, "B_SPLINE_CURVE_WITH_KNOTS": 9, "TRIMMED_CURVE": 6,
    "AXIS1_PLACEMENT": 3, "AXIS2_PLACEMENT_2D": 3, "AXIS2_PLACEMENT_3D": 4, "PLANE": 2,
    "CYLINDRICAL_SURFACE": 3, "CONICAL_SURFACE": 4, "SPHERICAL_SURFACE": 3, "TOROIDAL_SURFACE": 4,
    "DEGENERATE_TOROIDAL_SURFACE": 5, "SURFACE_OF_LINEAR_EXTRUSION": 3, "SURFACE_OF_REVOLUTION": 3,
    "B_SPLINE_SURFACE_WITH_KNOTS": 13, "OFFSET_SURFACE": 4, "PCURVE": 3, "SURFACE_CURVE": 4,
    "SEAM_CURVE": 4, "INTERSECTION_CURVE": 4, "VERTEX_POINT": 2, "EDGE_CURVE": 5, "ORIENTED_EDGE": 5,
    "EDGE_LOOP": 2, "VERTEX_LOOP": 2, "FACE_BOUND": 3, "FACE_OUTER_BOUND": 3, "ADVANCED_FACE": 4,
    "FACE_SURFACE": 4, "CLOSED_SHELL": 2, "OPEN_SHELL": 2, "ORIENTED_CLOSED_SHELL": 4,
    "MANIFOLD_SOLID_BREP": 2, "BREP_WITH_VOIDS": 3, "SHELL_BASED_SURFACE_MODEL": 2,
    "ITEM_DEFINED_TRANSFORMATION": 4, "MAPPED_ITEM": 3, "REPRESENTATION_MAP": 2,
}  # fmt: skip
"""How many attributes the records of a kind have, supertypes' included."""

STYLES = {
    "SURFACE_STYLE_USAGE": "SIDE_STYLE", "PROPERTY_DEFINITION_REPRESENTATION": "REPRESENTATION",
}  # fmt: skip
"""Records whose second attribute must be of a kind, by a part of its keyword; complex ones are let pass."""

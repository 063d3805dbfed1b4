"""The node types of schema 13006 as data, and the types a file makes of them.

Source: the published XT format reference of the format's owner; orders and types of the nodes
marked R in the table were compared with an independent parser, the others are from memory.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cache

__all__ = ["BASE", "MM_PER_METRE", "SCALARS", "Field", "NodeType", "base_schema"]

BASE = 13006
"""The schema that embedded edits start from, and the one we write."""

MM_PER_METRE = 1e3
"""The format counts in metres, the model in millimetres."""

SCALARS = frozenset("dnupfwclvhi")
"""Type letters: d int, n short, u byte, p pointer, f real, w UTF-16 unit, c character, l logical,
v vector, h position of an intersection point, i interval."""


@dataclass(frozen=True, slots=True)
class Field:
    """One field of a node.

    Args:
        letter: its type.
        count: 0 for a single value, 1 for a variable number (the last field only), else that many.
        points_to: class or node type a pointer leads to; 0 unknown.
        is_length: whether it is in metres; all else is a pure number, an angle's sine or cosine, a unit
            vector, or a parameter, whose unit is that of its curve or surface (parameters.py).
    """

    name: str
    letter: str
    count: int = 0
    points_to: int = 0
    is_length: bool = False


_WITH_USER_FIELDS = frozenset(
    (
        *range(10, 20),
        *range(29, 33),
        38,
        *range(50, 55),
        56,
        60,
        67,
        68,
        70,
        80,
        81,
        90,
        100,
        124,
        133,
        134,
        137,
    )
)
"""Node types that carry user fields, after their own; asked of an independent parser type by type."""


@dataclass(frozen=True, slots=True)
class NodeType:
    """A node type: its number, its name and its fields in the order they are written."""

    number: int
    name: str
    fields: tuple[Field, ...]
    positions: Mapping[str, int] = field(init=False, compare=False, repr=False)
    pointers: tuple[Field, ...] = field(init=False, compare=False, repr=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "positions", {f.name: at for at, f in enumerate(self.fields)})
        object.__setattr__(self, "pointers", tuple(f for f in self.fields if f.letter == "p"))

    @property
    def has_user_fields(self) -> bool:
        """Whether its nodes end with the user's integers in files that have such."""
        return self.number in _WITH_USER_FIELDS

    @property
    def is_variable(self) -> bool:
        """Whether the last field has as many values as the node says."""
        return bool(self.fields) and self.fields[-1].count == 1


_GEOMETRY = (
    "node_id d, attributes_groups p:1019, owner p, next p, previous p, geometric_owner p:141, sense c"
)
_CURVE = _GEOMETRY.replace("owner p,", "owner p:1010,").replace("next p,", "next p:1008,").replace(
    "previous p,", "previous p:1008,"
)  # fmt: skip
_SURFACE = _GEOMETRY.replace("owner p,", "owner p:1007,").replace("next p,", "next p:1006,").replace(
    "previous p,", "previous p:1006,"
)  # fmt: skip

_TABLE = f"""
10 ASSEMBLY: highest_node_id d, attributes_groups p:1019, attribute_chains p:70, list p:70,
   surface p:1006, curve p:1008, point p:29, key p:102, res_size f@m, res_linear f@m, ref_instance p:11,
   next p, previous p, state u, owner p:101, type u, sub_instance p:11
11 INSTANCE: node_id d, attributes_groups p:1019, type u, part p, transform p:100, assembly p:10,
   next_in_part p:11, prev_in_part p:11, next_of_part p:11, prev_of_part p:11
12 BODY: highest_node_id d, attributes_groups p:1019, attribute_chains p:70, surface p:1006,
   curve p:1008, point p:29, key p:102, res_size f@m, res_linear f@m, ref_instance p:11, next p, previous p,
   state u, owner p:101, body_type u, nom_geom_state u, shell p:13, boundary_surface p:1006,
   boundary_curve p:1008, boundary_point p:29, region p:19, edge p:16, vertex p:18
13 SHELL: node_id d, attributes_groups p:1019, body p:12, next p:13, face p:14, edge p:16, vertex p:18,
   region p:19, front_face p:14
14 FACE: node_id d, attributes_groups p:1019, tolerance f@m, next p:14, previous p:14, loop p:15,
   shell p:13, surface p:1006, sense c, next_on_surface p:14, previous_on_surface p:14,
   next_front p:14, previous_front p:14, front_shell p:13
15 LOOP: node_id d, attributes_groups p:1019, fin p:17, face p:14, next p:15
16 EDGE: node_id d, attributes_groups p:1019, tolerance f@m, fin p:17, previous p:16, next p:16,
   curve p:1008, next_on_curve p:16, previous_on_curve p:16, owner p:1029
17 FIN: attributes_groups p:1019, loop p:15, forward p:17, backward p:17, vertex p:18, other p:17,
   edge p:16, curve p:1008, next_at_vx p:17, sense c
18 VERTEX: node_id d, attributes_groups p:1019, fin p:17, previous p:18, next p:18, point p:29,
   tolerance f@m, owner p:1029
19 REGION: node_id d, attributes_groups p:1019, body p:12, next p:19, previous p:19, shell p:13, type c
29 POINT: node_id d, attributes_groups p:1019, owner p:1011, next p:29, previous p:29, pvec v@m
30 LINE: {_CURVE}, pvec v@m, direction v
31 CIRCLE: {_CURVE}, centre v@m, normal v, x_axis v, radius f@m
32 ELLIPSE: {_CURVE}, centre v@m, normal v, x_axis v, major_radius f@m, minor_radius f@m
38 INTERSECTION: {_CURVE}, surface p:1006*2, chart p:40, start p:41, end p:41
40 CHART: base_parameter f, base_scale f, chart_count d, chordal_error f@m, angular_error f,
   parameter_error f*2, hvec h[]@m
41 LIMIT: type c, hvec h[]@m
45 BSPLINE_VERTICES: vertices f[]
50 PLANE: {_SURFACE}, pvec v@m, normal v, x_axis v
51 CYLINDER: {_SURFACE}, pvec v@m, axis v, radius f@m, x_axis v
52 CONE: {_SURFACE}, pvec v@m, axis v, radius f@m, sin_half_angle f, cos_half_angle f, x_axis v
53 SPHERE: {_SURFACE}, centre v@m, radius f@m, axis v, x_axis v
54 TORUS: {_SURFACE}, centre v@m, axis v, major_radius f@m, minor_radius f@m, x_axis v
56 BLENDED_EDGE: {_SURFACE}, type c, surface p:1006*2, spine p:1008, range f*2@m, thumb_weight f*2,
   boundary p:1006*2, start p:41, end p:41
59 BLEND_BOUND: {_SURFACE}, boundary n, blend p:1006
60 OFFSET_SURF: {_SURFACE}, check c, true_offset l, surface p:1006, offset f@m, scale f
67 SWEPT_SURF: {_SURFACE}, section p:1008, sweep v, scale f
68 SPUN_SURF: {_SURFACE}, profile p:1008, base v@m, axis v, start v@m, end v@m, start_param f, end_param f,
   x_axis v, scale f
70 LIST: node_id d, owner p:1013, next p:70, previous p:70, list_type d, list_length d,
   block_length d, size_of_entry d, list_block p:1012, finger_block p:1012, finger_index d, notransmit l
74 POINTER_LIS_BLOCK: n_entries d, next_block p:74, entries p[]
79 ATT_DEF_ID: string c[]
80 ATTRIB_DEF: next p:80, identifier p:79, type_id d, actions u*8, field_names p:99, legal_owners l*14,
   fields u[]
81 ATTRIBUTE: node_id d, definition p:80, owner p:1015, next p:1019, previous p:1019,
   next_of_type p:81, previous_of_type p:81, fields p:1018[]
82 INT_VALUES: values d[]
83 REAL_VALUES: values f[]
84 CHAR_VALUES: values c[]
85 POINT_VALUES: values v[]
86 VECTOR_VALUES: values v[]
87 AXIS_VALUES: values v[]
88 TAG_VALUES: values d[]
89 DIRECTION_VALUES: values v[]
90 FEATURE: node_id d, attributes_groups p:1019, owner p, next p:1019, previous p:1019, type u,
   first_member p:91
91 MEMBER_OF_FEATURE: dummy_node_id d, owning_feature p:90, owner p, next p:1019, previous p:1019,
   next_member p:91, previous_member p:91
98 UNICODE_VALUES: values w[]
99 FIELD_NAMES: names p:84[]
100 TRANSFORM: node_id d, owner p:1014, next p:100, previous p:100, rotation_matrix f*9,
   translation_vector v@m, scale f, flag u, perspective_vector v
101 WORLD: assembly p:10, attribute p:81, body p:12, transform p:100, surface p:1006, curve p:1008,
   point p:29, alive l, attrib_def p:80, highest_id d, current_id d
102 KEY: string c[]
124 B_SURFACE: {_SURFACE}, nurbs p:126, data p:125
125 SURFACE_DATA: original_uint i, original_vint i, extended_uint i, extended_vint i, self_int u,
   original_u_start c, original_u_end c, original_v_start c, original_v_end c, extended_u_start c,
   extended_u_end c, extended_v_start c, extended_v_end c, analytic_form_type c, swept_form_type c,
   spun_form_type c, blend_form_type c, analytic_form p, swept_form p, spun_form p, blend_form p
126 NURBS_SURF: u_periodic l, v_periodic l, u_degree n, v_degree n, n_u_vertices d, n_v_vertices d,
   u_knot_type u, v_knot_type u, n_u_knots d, n_v_knots d, rational l, u_closed l, v_closed l,
   surface_form u, vertex_dim n, bspline_vertices p:45, u_knot_mult p:127, v_knot_mult p:127,
   u_knots p:128, v_knots p:128
127 KNOT_MULT: mult n[]
128 KNOT_SET: knots f[]
133 TRIMMED_CURVE: {_CURVE}, basis_curve p:1008, point_1 v@m, point_2 v@m, parm_1 f, parm_2 f
134 B_CURVE: {_CURVE}, nurbs p:136, data p:135
135 CURVE_DATA: self_int u, analytic_form p
136 NURBS_CURVE: degree n, n_vertices d, vertex_dim n, n_knots d, knot_type u, periodic l, closed l,
   rational l, curve_form u, bspline_vertices p:45, knot_mult p:127, knots p:128
137 SP_CURVE: {_CURVE}, surface p:1006, b_curve p:134, original p:1008, tolerance_to_original f@m
141 GEOMETRIC_OWNER: owner p, next p:141, previous p:141, shared_geometry p:1003
"""


def _field(text: str) -> Field:
    name, kind = text.split()
    kind, at, unit = kind.partition("@")
    if unit != at.replace("@", "m"):
        raise ValueError(f"field {name} has the unknown unit {unit!r}")
    count = 0
    if kind.endswith("[]"):
        kind, count = kind[:-2], 1
    elif "*" in kind:
        kind, _, number = kind.partition("*")
        count = int(number)
    letter, _, target = kind.partition(":")
    if letter not in SCALARS:
        raise ValueError(f"field {name} has the unknown type {letter!r}")
    return Field(name, letter, count, int(target or 0), bool(unit))


@cache
def base_schema() -> dict[int, NodeType]:
    """The node types of schema 13006 by number. Raises ValueError when the table is senseless."""
    types: dict[int, NodeType] = {}
    entry = ""
    for line in [*_TABLE.strip().splitlines(), "0 END:"]:
        if line.startswith(" "):
            entry += line
            continue
        if entry:
            head, _, rest = entry.partition(":")
            number, name = head.split()
            fields = tuple(_field(part.strip()) for part in rest.split(",") if part.strip())
            types[int(number)] = NodeType(int(number), name, fields)
        entry = line
    return types

"""Items, revisions, uses and events, and the rules that the database keeps."""

import sqlalchemy as sa
from alembic import op

revision = "v1"
down_revision = None

_RULES = {
    # name: table, when, columns, condition under which it is refused, what is said
    "kept_as_released": (
        "revision", "UPDATE", "content, product, bodies, major, minor, item",
        "OLD.state <> 'in work'", "only what is in work can be changed",
    ),
    "no_way_back": (
        "revision", "UPDATE", "state",
        "(OLD.state = 'released' AND NEW.state = 'in work') OR (OLD.state = 'withdrawn' "
        "AND NEW.state <> 'withdrawn')",
        "a state is never taken back",
    ),
    "released_uses_released": (
        "revision", "UPDATE", "state",
        "NEW.state = 'released' AND OLD.state = 'in work' AND EXISTS (SELECT 1 FROM \"use\" u "
        "JOIN revision c ON c.id = u.child WHERE u.parent = NEW.id AND c.state <> 'released')",
        "something it uses is not released",
    ),
    "used_is_not_withdrawn": (
        "revision", "UPDATE", "state",
        "NEW.state = 'withdrawn' AND OLD.state <> 'withdrawn' AND EXISTS (SELECT 1 FROM \"use\" u "
        "JOIN revision p ON p.id = u.parent WHERE u.child = NEW.id AND p.state <> 'withdrawn')",
        "something uses it",
    ),
    "height_over_uses": (
        "revision", "UPDATE", "height",
        "EXISTS (SELECT 1 FROM \"use\" u JOIN revision c ON c.id = u.child WHERE u.parent = NEW.id "
        "AND c.height >= NEW.height) OR EXISTS (SELECT 1 FROM \"use\" u JOIN revision p ON p.id = u.parent "
        "WHERE u.child = NEW.id AND p.height <= NEW.height)",
        "it would contain itself",
    ),
    "only_lowest_is_new": (
        "revision", "INSERT", "", "NEW.state <> 'in work'", "what is new is in work",
    ),
    "released_is_kept": (
        "revision", "DELETE", "", "OLD.state <> 'in work'", "only what is in work can be removed",
    ),
    "new_uses_in_work": (
        "use", "INSERT", "",
        "EXISTS (SELECT 1 FROM revision p WHERE p.id = NEW.parent AND p.state <> 'in work')",
        "only what is in work can be changed",
    ),
    "uses_in_work": (
        "use", "UPDATE", "",
        "EXISTS (SELECT 1 FROM revision p WHERE p.id = OLD.parent AND p.state <> 'in work')",
        "only what is in work can be changed",
    ),
    "uses_stay": (
        "use", "DELETE", "",
        "EXISTS (SELECT 1 FROM revision p WHERE p.id = OLD.parent AND p.state <> 'in work')",
        "only what is in work can be changed",
    ),
    "new_uses_beneath": (
        "use", "INSERT", "",
        "EXISTS (SELECT 1 FROM revision p, revision c WHERE p.id = NEW.parent AND c.id = NEW.child "
        "AND c.height >= p.height)",
        "it would contain itself",
    ),
    "uses_beneath": (
        "use", "UPDATE", "",
        "EXISTS (SELECT 1 FROM revision p, revision c WHERE p.id = NEW.parent AND c.id = NEW.child "
        "AND c.height >= p.height)",
        "it would contain itself",
    ),
    "withdrawn_is_not_used": (
        "use", "INSERT", "",
        "EXISTS (SELECT 1 FROM revision c WHERE c.id = NEW.child AND c.state = 'withdrawn')",
        "what is withdrawn is not used",
    ),
}  # fmt: skip


def upgrade() -> None:
    """Make the tables and the rules."""
    op.create_table(
        "item",
        sa.Column("id", sa.String(36), primary_key=True),
        sa.Column("number", sa.Text, nullable=False),
        sa.Column("made_at", sa.String(32), nullable=False),
        sa.Column("made_by", sa.Text, nullable=False),
        sa.Column("lineage", sa.String(36), nullable=False, server_default=""),
        sa.UniqueConstraint("number", name="uq_item_number"),
    )
    op.create_table(
        "revision",
        sa.Column("id", sa.String(36), primary_key=True),
        sa.Column("item", sa.String(36), sa.ForeignKey("item.id", ondelete="RESTRICT"), nullable=False),
        sa.Column("major", sa.String(8), nullable=False),
        sa.Column("minor", sa.Integer, nullable=False),
        sa.Column("state", sa.String(16), nullable=False),
        sa.Column("label", sa.Text, nullable=False),
        sa.Column("description", sa.Text, nullable=False),
        sa.Column("content", sa.String(64), nullable=False),
        sa.Column("product", sa.Text, nullable=False),
        sa.Column("bodies", sa.Text, nullable=False),
        sa.Column("height", sa.Integer, nullable=False),
        sa.Column("made_at", sa.String(32), nullable=False),
        sa.Column("made_by", sa.Text, nullable=False),
        sa.Column("changed_at", sa.String(32), nullable=False),
        sa.Column("changed_by", sa.Text, nullable=False),
        sa.Column("stamp", sa.Integer, nullable=False),
        sa.Column("source", sa.Text, nullable=False),
        sa.Column("source_sha256", sa.String(64), nullable=False),
        sa.Column("lineage", sa.String(36), nullable=False, server_default=""),
        sa.UniqueConstraint("item", "major", "minor", name="uq_revision_item_major_minor"),
        sa.CheckConstraint("state IN ('in work', 'released', 'withdrawn')", name="ck_revision_state"),
        sa.CheckConstraint("minor > 0 AND height >= 0 AND stamp > 0", name="ck_revision_counts"),
    )
    op.create_index("ix_revision_content", "revision", ["content"])
    _make_uses_and_events()
    for name, rule in _RULES.items():
        _make_rule(name, *rule)


def _make_uses_and_events() -> None:
    op.create_table(
        "use",
        sa.Column(
            "parent", sa.String(36), sa.ForeignKey("revision.id", ondelete="CASCADE"), primary_key=True
        ),
        sa.Column("position", sa.Integer, primary_key=True),
        sa.Column(
            "child", sa.String(36), sa.ForeignKey("revision.id", ondelete="RESTRICT"), nullable=False
        ),
        sa.Column("occurrence", sa.Text, nullable=False),
    )
    op.create_index("ix_use_child", "use", ["child"])
    op.create_table(
        "event",
        sa.Column("serial", sa.Integer, primary_key=True, autoincrement=True),
        sa.Column(
            "revision", sa.String(36), sa.ForeignKey("revision.id", ondelete="CASCADE"), nullable=False
        ),
        sa.Column("what", sa.Text, nullable=False),
        sa.Column("made_by", sa.Text, nullable=False),
        sa.Column("made_at", sa.String(32), nullable=False),
    )
    op.create_index("ix_event_revision", "event", ["revision"])


def _make_rule(name: str, table: str, when: str, columns: str, condition: str, said: str) -> None:
    of = f" OF {columns}" if columns else ""
    if op.get_bind().dialect.name == "sqlite":
        op.execute(
            f'CREATE TRIGGER {name} BEFORE {when}{of} ON "{table}" FOR EACH ROW WHEN {condition} '
            f"BEGIN SELECT RAISE(ABORT, 'rule {name}: {said}'); END"
        )
        return
    result = "OLD" if when == "DELETE" else "NEW"
    op.execute(
        f"CREATE FUNCTION {name}() RETURNS trigger AS $$ BEGIN IF {condition} THEN "
        f"RAISE EXCEPTION 'rule {name}: {said}'; END IF; RETURN {result}; END $$ LANGUAGE plpgsql"
    )
    op.execute(
        f'CREATE TRIGGER {name} BEFORE {when}{of} ON "{table}" FOR EACH ROW EXECUTE FUNCTION {name}()'
    )

"""Tables of the store. A change here needs a migration beside the others, and the next number."""

from __future__ import annotations

from sqlalchemy import (
    Column,
    Float,
    ForeignKey,
    Index,
    Integer,
    LargeBinary,
    MetaData,
    String,
    Table,
    Text,
    UniqueConstraint,
)

#: number of the newest schema that this program writes
SCHEMA = 1

metadata = MetaData()

#: set-ups as readings name them, each once: a fit asks for those that are like its own
setups = Table(
    "setups",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("told", Text, nullable=False, unique=True, comment="its fields as JSON"),
)

#: one cutting edge from new
edges = Table(
    "edges",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("trial", String(200), nullable=False),
    Column("edge", String(200), nullable=False),
    UniqueConstraint("trial", "edge"),
)

#: one look at one edge
readings = Table(
    "readings",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("edge_id", ForeignKey("edges.id"), nullable=False),
    Column("setup_id", ForeignKey("setups.id"), nullable=False),
    Column("minutes", Float, nullable=False),
    Column("taken_on", String(10), nullable=False),
    Column("data", Text, nullable=False, comment="the whole reading as JSON"),
    Column("version", Integer, nullable=False, default=1),
    Column("who", String(200), nullable=False),
    Column("at", String(32), nullable=False),
    UniqueConstraint("edge_id", "minutes", "taken_on"),
    Index("readings_by_setup", "setup_id"),
)

#: pictures of edges with their scale
pictures = Table(
    "pictures",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("edge_id", ForeignKey("edges.id"), nullable=False),
    Column("name", String(200), nullable=False),
    Column("minutes", Float, nullable=False),
    Column("mm_per_pixel", Float),
    Column("digest", String(64), nullable=False),
    Column("content", LargeBinary, nullable=False),
    Column("who", String(200), nullable=False),
    Column("at", String(32), nullable=False),
    UniqueConstraint("edge_id", "digest"),
)

#: trials, recipes, standards, own tools, holders, machines and materials
records = Table(
    "records",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("kind", String(20), nullable=False),
    Column("name", String(200), nullable=False),
    Column("data", Text, nullable=False, comment="the record as JSON"),
    Column("version", Integer, nullable=False),
    Column("who", String(200), nullable=False),
    Column("at", String(32), nullable=False),
    UniqueConstraint("kind", "name"),
)

#: every change of a record or a reading: what it was, what it became, who, when, and from which job and trial
history = Table(
    "history",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("kind", String(20), nullable=False),
    Column("name", String(500), nullable=False),
    Column("version", Integer, nullable=False),
    Column("who", String(200), nullable=False),
    Column("at", String(32), nullable=False),
    Column("job", String(1000), nullable=False),
    Column("trial", String(200), nullable=False),
    Column("before", Text),
    Column("after", Text),
    Index("history_by_name", "kind", "name"),
)

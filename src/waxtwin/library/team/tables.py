"""What only a team's database holds beside the tables of every library."""

from __future__ import annotations

from sqlalchemy import Column, Integer, MetaData, String, Table

TEAM = Table(
    "team",
    MetaData(),
    Column("id", Integer, primary_key=True),
    Column("uid", String, nullable=False),  # what the note in the clips' folder says, too
    Column("clips", String, nullable=False),  # the folder as it is mounted where the library was made
    Column("copying", String),  # from where it is being filled; nobody joins meanwhile
)

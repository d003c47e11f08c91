"""Alembic's entry: migrations run over the connection that the library hands in."""

from alembic import context

from waxtwin.library.records import Base

connection = context.config.attributes["connection"]
context.configure(connection=connection, target_metadata=Base.metadata, render_as_batch=True)
with context.begin_transaction():
    context.run_migrations()

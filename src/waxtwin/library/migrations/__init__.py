"""Schema versions of the library, for Alembic."""

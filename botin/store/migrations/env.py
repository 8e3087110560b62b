"""Run by Alembic: migrates on the connection it is given."""

from alembic import context

from botin.store.models import Base

connection = context.config.attributes["connection"]


def is_ours(name: str | None, _kind: str, _parents: object) -> bool:
    """The search index is made by hand."""
    return not (name or "").startswith("card_search")


context.configure(connection=connection, target_metadata=Base.metadata, render_as_batch=True, include_name=is_ours)
with context.begin_transaction():
    context.run_migrations()

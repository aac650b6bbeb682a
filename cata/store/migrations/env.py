"""Alembic's entry: migrations run on the connection that the application hands over."""

from alembic import context
from sqlmodel import SQLModel

from cata.store import tables  # noqa: F401

context.configure(
    connection=context.config.attributes["connection"],
    target_metadata=SQLModel.metadata,
    render_as_batch=True,
)
with context.begin_transaction():
    context.run_migrations()

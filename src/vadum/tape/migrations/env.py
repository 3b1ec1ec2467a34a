"""Alembic's environment: the connection comes from the program."""

from alembic import context
from sqlmodel import SQLModel

from vadum.tape import tables  # noqa: F401

connection = context.config.attributes["connection"]
context.configure(connection=connection, target_metadata=SQLModel.metadata, render_as_batch=True)
with context.begin_transaction():
    context.run_migrations()

"""Alembic's environment: migrations run on the connection they are handed, foreign keys off,
checked afterwards.
"""

from alembic import context

from greyfell.records.models import Base

connection = context.config.attributes["connection"]
context.configure(connection=connection, target_metadata=Base.metadata, render_as_batch=True)
with context.begin_transaction():
    context.run_migrations()

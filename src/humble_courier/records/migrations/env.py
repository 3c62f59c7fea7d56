"""Alembic's entry: runs on the connection that `store.py` hands over."""

from alembic import context

from humble_courier.records.tables import Base

context.configure(connection=context.config.attributes["connection"], target_metadata=Base.metadata, render_as_batch=True)
with context.begin_transaction():
    context.run_migrations()

"""Alembic's entry: runs the migrations on the connection that the shop hands over."""

from alembic import context

from after_check.shop.tables import metadata

connection = context.config.attributes["connection"]
context.configure(connection=connection, target_metadata=metadata, render_as_batch=True, transactional_ddl=True)
with context.begin_transaction():
    context.run_migrations()

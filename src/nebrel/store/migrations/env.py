"""Run by Alembic to bring a database up to date."""

from alembic import context

from nebrel.store.tables import Table

with context.config.attributes["engine"].connect() as connection:
    context.configure(connection=connection, target_metadata=Table.metadata, render_as_batch=True)
    with context.begin_transaction():
        context.run_migrations()

"""Run by Alembic: changes the tables of the register whose connection it is given."""

from alembic import context

connection = context.config.attributes["connection"]
context.configure(connection=connection, target_metadata=None, transaction_per_migration=False)
context.run_migrations()

"""Runs migrations on the connection that the store hands over; there is no other way in."""

from alembic import context

connection = context.config.attributes["connection"]
context.configure(connection=connection, transaction_per_migration=False, transactional_ddl=False)
context.run_migrations()

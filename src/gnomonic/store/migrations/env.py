"""Alembic's entry: run the migrations on the address it is handed."""

from alembic import context
from sqlalchemy import create_engine

engine = create_engine(context.config.attributes["url"])
try:
    with engine.connect() as connection:
        context.configure(connection=connection)
        with context.begin_transaction():
            context.run_migrations()
finally:
    engine.dispose()

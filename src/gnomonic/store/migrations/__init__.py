"""Schema migrations, run by Alembic."""

"""Alembic's steps from one version of the database to the next."""

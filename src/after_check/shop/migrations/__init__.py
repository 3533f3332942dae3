"""Alembic's migrations of a shop's tables."""

"""Which version the tables of a shop have."""

REVISION = "0011"
"""The migration that makes the tables as `tables.py` describes them."""

"""A room of machines."""

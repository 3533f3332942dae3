"""Demand: what the customer's work took, against the old and the new total."""

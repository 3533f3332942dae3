"""The card of a machine model."""

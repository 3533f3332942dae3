"""Kinds of backgrounds, as the kernels number them."""

CONSTANT = 0
"""One word, with `second` flipped in every other word."""
WALKING = 1
"""One bit that moves on from word to word."""
ADDRESS = 2
"""The word's own offset in bytes."""
RANDOM = 3
"""A number from a seed (Weyl's sequence through a xorshift)."""

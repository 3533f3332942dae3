"""A case in, findings out: reconcile, compare, ceilings, channels, the rules. Pure functions over plain data; says codes and values."""

"""One door for what people type and paste: the short form, plain words, and what either says."""

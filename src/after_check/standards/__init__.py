"""Decoders of published layouts and notations. Bytes and text in, plain data out; each file names its document."""

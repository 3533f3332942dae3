"""The modules side by side."""

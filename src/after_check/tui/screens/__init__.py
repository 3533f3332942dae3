"""The views: each a file with its style beside it."""

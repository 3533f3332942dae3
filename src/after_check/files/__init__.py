"""What everyone borrows: trees of files, whole files, one codec for JSON, limits, and what is said of bad ones."""

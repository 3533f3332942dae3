"""Taking a reading."""

"""Scripts that gather a reading on a machine without After Check."""

"""The commands. The only place with the argument parser."""

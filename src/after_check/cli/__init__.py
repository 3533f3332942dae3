"""The commands, each imported when it is asked for. The only place with the argument parser."""

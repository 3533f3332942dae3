"""What the command returns where it is not the answer itself: the codes of sysexits.h."""

EXIT_USAGE = 64
"""The command line makes no sense (EX_USAGE)."""
EXIT_BAD_INPUT = 65
"""The input could not be read or understood (EX_DATAERR)."""
EXIT_SOFTWARE = 70
"""A bug (EX_SOFTWARE)."""
EXIT_STORE = 74
"""The store of jobs failed (EX_IOERR)."""
EXIT_STOPPED = 130
"""Stopped from the keyboard, as shells count it."""

"""Plain frozen data: what the rest of the program talks about. No input, no output, no interface."""

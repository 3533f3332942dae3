"""Where jobs are kept."""

"""The bench: the jobs, grouped by what they wait for."""

"""Any two readings of a job against each other."""

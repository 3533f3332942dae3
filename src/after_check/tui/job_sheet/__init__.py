"""The job sheet: promise, board, findings and what to do."""

"""The view of tries: the matrix, the suspects, the next try, the entry of one, and the start watch."""

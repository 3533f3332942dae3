"""The stick that boots on the customer's machine: made, written, loaded with jobs, run there, and collected from."""

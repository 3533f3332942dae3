"""What goes out with the machine: charts and drawings for paper, and the sheet."""

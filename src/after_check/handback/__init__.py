"""What goes out with the machine: drawings and the sheet."""

"""Where readings come from: this machine, folders, files, typing."""

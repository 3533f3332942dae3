"""What the program keeps on this computer beside the jobs: settings, paths, recent places, the log, files written whole."""

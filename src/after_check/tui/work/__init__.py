"""What goes on off the screen's thread, and tells the screens by messages."""

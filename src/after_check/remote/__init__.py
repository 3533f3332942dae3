"""Running After Check on another machine over SSH, and following it from the bench."""

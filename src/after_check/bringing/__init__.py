"""Bringing After Check to another machine: itself and the libraries that it needs, as they are on this one."""

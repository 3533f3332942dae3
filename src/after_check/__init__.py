"""After Check: was the memory upgrade worth handing back?"""

__version__ = "0.1.0"

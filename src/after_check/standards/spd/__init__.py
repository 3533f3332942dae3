"""The serial presence detect of memory modules: what a module says of itself. Documents: see each file."""

from after_check.standards.spd.decode import decode
from after_check.standards.spd.image import SpdModule

__all__ = ["SpdModule", "decode"]

"""What joins things, where nothing is known of it: contacts, metal, fuses. All are typical values
from common practice, from memory.
"""

MATED_OHM = 0.005
"""Two cavities that are plugged together, ohms (common practice: a few milliohms)."""

METAL_OHM = 0.0005
"""From one earth point to another through the metal, ohms (common practice)."""

FUSE_DROP_V = 0.1
"""What a fuse loses at its rating, V (typical of blade fuses; common practice)."""

UNKNOWN_WIRE_OHM = 0.01
"""A wire of unknown size or length, ohms (our choice: about a metre of 2 mm2)."""

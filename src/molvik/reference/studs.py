"""Studs that lugs go on. Common practice, from memory; no source: measure the stud."""

ALTERNATOR_M8_A = 80.0
"""From this rating on the output of an alternator has a stud M8, below it M6."""

LUG_MM2 = 6.0
"""From this section on a wire ends in a crimped ring, not in a push-on terminal."""

FUSE_STUD, BATTERY_POST, STARTER_STUD, EARTH_STUD = "M8", "battery post", "M10", "M8"

"""Meters and testers, real ones by VISA and the stand-in that ships."""

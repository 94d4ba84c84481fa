"""Meters, loom testers and diagnostic links, with their stand-ins. Not built yet."""

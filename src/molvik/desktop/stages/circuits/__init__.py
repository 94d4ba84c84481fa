"""The Circuits page."""

"""The Survey page."""

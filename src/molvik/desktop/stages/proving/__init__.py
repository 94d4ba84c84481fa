"""The Proving page."""

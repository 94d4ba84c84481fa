"""The Pinouts page."""

"""The Sheets page."""

"""The panel on the right, for whatever is in hand."""

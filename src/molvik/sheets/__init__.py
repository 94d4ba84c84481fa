"""What goes to the bench and is handed over."""

"""What people type and what tables hold, read as values."""

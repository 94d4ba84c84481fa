"""What a job is: frozen value types and pure edits. No calculation, no files, no Qt."""

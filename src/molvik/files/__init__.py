"""Everything that touches the disk: the job package, tables, sheets, recovery."""

"""Published tables, one module per subject, each value with its source.

Where a table is given from memory of the standard, the module says so.
"""

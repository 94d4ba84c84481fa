"""What people type about the things of a job: fields, each with its text and how it is read.

One kind of field serves tables, the panel and whatever else takes what is typed; a module here for
each kind of thing.

A field (typed/field.py) is how one thing about a wire, part, cavity or piece of a loom is shown and
read; tables (column_of) and the panel (desktop/panel/fieldcard.py) are made of the same fields, and
what is typed comes back as a Typed, an edit with its name, for store.take.
"""

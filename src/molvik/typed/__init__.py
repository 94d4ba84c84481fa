"""What people type about the things of a job: fields, each with its text and how it is read.

One kind of field serves tables, the panel and whatever else takes what is typed; a module here for
each kind of thing.
"""

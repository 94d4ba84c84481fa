"""What stands beside the stages: the logbook, the stock, the photos.

The shop's shelf (files/shelf.py, docs/shelf.md) is the one thing that jobs share, a database in the
data folder. A job sees of it a Shelf (model/stock.py), a value like the job, which the store hands
to each Analysis: what is computed from stock declares shelf too. desktop/beside/shelfkeeper.py
reads it when anybody changes it, and books what was cut (Job.taken) whatever way the job came to
it: edit, undo, redo, another version. logbook/picks.py is what the job takes of it, nothing
promised twice.
"""

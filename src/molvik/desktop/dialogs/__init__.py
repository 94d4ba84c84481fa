"""Small windows, and how they are opened.

Dialogs are opened by desktop/dialogs/opening.py and freed when they are closed;
desktop/work/reading.py reads files aside.
"""

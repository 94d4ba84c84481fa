"""Small windows, and how they are opened.

Dialogs are opened by desktop/dialogs/opening.py and freed when they are closed;
desktop/threads/reading.py reads files aside.
"""

"""The job's file: opened, saved, kept, dropped on the window, and its versions."""

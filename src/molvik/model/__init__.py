"""What a job is: frozen value types and pure edits. No calculation, no files, no Qt.

A job is one immutable model.job.Job. An edit is a pure function Job -> Job in model/edits.py; it
raises EditError, whose text is for the user. What no job may hold is said once (model/checks.py):
edits refuse it, and so does opening a file.

What points at what is one table, model/references.py: taking a thing out, giving it another code,
and saying who uses it read it. A field that names a thing by its code is entered there
(tests/test_codes.py finds one that is not). A code that was taken out is spent (model/codes.py,
Job.spent): labels and the record speak of it, so nothing else gets it.
"""

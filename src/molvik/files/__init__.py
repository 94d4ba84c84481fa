"""Everything that touches the disk: the job file, tables, sheets, recovery, the shelf.

Photos are values too (model/photos.py: what is shown, when, the marks); their bytes are not. They
lie in the job file, or in the recovery folder until they are saved; files/photobox.py knows where.

The job file is opened by open_job (files/jobfile.py) and written by save_job (files/saving.py), by
nobody else. database is SQLite held to our tables and statements, onefile the file system it is
given, in which nothing else lies, contents the job, versions and photos in it; journal reads what a
killed save left, cutoff says what that is good for; zipjob reads the zips of earlier versions,
writing how any file is written whole or set aside, still holds one that is replaced. A JobFile
stays open: its photos can be read even after somebody replaced the file.
"""

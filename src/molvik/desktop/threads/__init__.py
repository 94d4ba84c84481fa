"""What goes on beside the window: threads, the disk, and what is done when something goes wrong.

What may wait for what is desktop/threads/lanes.py: what computes has a few threads, looking over
one, saving and the recovery copy one (in the order they were asked for), each instrument its own.
The interface's thread waits for none: desktop/threads/diskwork.py shows what the disk takes its
time with, and lets go of it. A task's error is kept without its frames (background.without_frames),
which hold all that was computed.

When the program itself goes wrong (desktop/threads/troubles.py, files/reports.py): said in words,
the job kept, a report in the state folder, a run of edits that nobody ends undone. --debug logs by
the standard module.

After a change the page in view refreshes from the analysis; one that is left lets go of it
(StagePage.leave), or memory holds a solution for each. The findings are looked over on another
thread (desktop/threads/looking.py, background.py) and shown when ready. A closed window is cyclic
garbage that Qt wants destroyed on its own thread, so Python's automatic collection is off and a
timer there does it: at once what takes no time, the rest set aside for a pause. Computing makes no
rings of objects (electrical/root.py says why), so there is little to collect.
"""

"""Job files as earlier versions of the program wrote them: a zip that is added to at its end."""

import zipfile
from pathlib import Path

from molvik.files.jobtext import encode_job
from molvik.files.photobox import PhotoBox
from molvik.model.job import Job


def put_old(job: Job, path: Path, photos: PhotoBox) -> None:
    """Write a job as the zip it was: photos first, then the job; anew or behind what is there."""
    size = path.stat().st_size if path.exists() else 0
    with zipfile.ZipFile(path, "a" if size else "w", zipfile.ZIP_DEFLATED) as package:
        if size:
            package.start_dir = size  # behind the old directory, which stays
            for gone in [one for one in package.filelist if one.filename == "job.json"]:
                package.filelist.remove(gone)
                del package.NameToInfo[gone.filename]
        there = set(package.namelist())
        for photo in job.photos:
            data = photos.read(photo.file)
            if photo.file not in there and data is not None:
                package.writestr(photo.file, data, zipfile.ZIP_STORED)
        package.writestr("job.json", encode_job(job))

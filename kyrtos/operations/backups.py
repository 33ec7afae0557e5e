"""Back-ups of everything: made by tools/backup, noted, rotated, and called old when they are."""

from __future__ import annotations

import os
import subprocess
from datetime import datetime, timedelta
from pathlib import Path

from django.conf import settings
from django.utils import timezone

from kyrtos.operations.models import Backup

OLD_AFTER = timedelta(hours=30)
_MOST_S = 3600
_DAYS, _WEEKS, MONTHS = 7, 4, 6


def last_good() -> Backup | None:
    """The newest that was written and read through."""
    return Backup.objects.filter(good=True).first()


def problem() -> str:
    """What is wrong with the back-ups; '' when nothing is."""
    if not settings.BACKUP_FOLDER:
        return "no folder for back-ups is set (KYRTOS_BACKUP_FOLDER), so none is made at night"
    good = last_good()
    if good is None:
        return "there is no good back-up yet"
    if timezone.now() - good.when > OLD_AFTER:
        return f"the last good back-up is of {good.when:%d %b %Y %H:%M} UTC: it is old"
    return ""


def make() -> Backup:
    """Make one now, note how it went, and take away those that rotation no longer keeps."""
    folder = Path(settings.BACKUP_FOLDER)
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    file = folder / f"kyrtos-{timezone.now():%Y%m%d-%H%M%S}.backup"
    noted = Backup.objects.create(file=str(file))
    tool = str(settings.BASE_DIR / "tools" / "backup")
    env = os.environ | {"DATABASE_URL": settings.DATABASE_ADDRESS}
    env |= {"KYRTOS_FILES": str(settings.MEDIA_ROOT), "KYRTOS_FILES_BUCKET": settings.FILES_BUCKET}
    try:
        run = subprocess.run(
            [tool, "save", str(file)], capture_output=True, text=True, timeout=_MOST_S, env=env
        )
        # 3: written, but photos that the database names are gone; it is kept, and not called whole
        noted.good, noted.told = run.returncode == 0, (run.stdout + run.stderr).strip()[-500:]
    except (OSError, subprocess.TimeoutExpired) as problem:
        noted.told = str(problem)[:500]
    noted.size_bytes = file.stat().st_size if file.exists() else 0
    noted.save()
    if noted.good:
        rotate()
    return noted


def kept(moments: list[datetime]) -> set[datetime]:
    """Of the moments of good back-ups, those that stay.

    The newest of each of the last seven days, four weeks and six months that have one; the newest
    of all in any case.
    """
    stay: set[datetime] = set()
    for key, count in (("%Y%j", _DAYS), ("%G%V", _WEEKS), ("%Y%m", MONTHS)):
        newest: dict[str, datetime] = {}
        for moment in sorted(moments, reverse=True):
            newest.setdefault(moment.strftime(key), moment)
        stay |= set(sorted(newest.values(), reverse=True)[:count])
    return stay


def rotate() -> None:
    """Take the files away that are not kept; what was noted of them stays."""
    found = list(Backup.objects.filter(good=True, gone=False))
    stay = kept([one.when for one in found])
    for one in found:
        if one.when not in stay:
            Path(one.file).unlink(missing_ok=True)
            Path(f"{one.file}.files").unlink(missing_ok=True)
            one.gone = True
            one.save(update_fields=["gone"])

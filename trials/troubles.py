"""A clock that jumps and a disk that is full, under work: ./run troubles.

As in :mod:`trials.chaos` people edit, read, import and issue; instead of killing, the clock of the
database, the servers and the worker jumps an hour either way (Debian's ``faketime``), and then the
disk under the database, a small one in memory, is filled up and emptied again. What was
acknowledged must be there once, and ``/health`` must have said that nothing can be saved.
"""

from __future__ import annotations

import os
import shutil
import subprocess
import tempfile
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

import psycopg

from trials import chaos, standing

_HOUR_S = 3600
_WORK_S = 25  # between one jump and the next


def at_work(port: int, database: str) -> tuple[chaos.Work, list[threading.Thread]]:
    """Two who edit, one who issues papers and one who reads, begun."""
    work = chaos.Work(port, database)
    with psycopg.connect(database) as held:
        asked = (
            "select id from jobs_job where kind = 'sump' order by created limit 2",
            "select id from jobs_job where title like 'Bookbinder%'",
            "select code from installations_installedpump where state = 'running' limit 1",
        )
        edited, sized, pump = [held.execute(one).fetchall() for one in asked]
    tasks: list[tuple[Callable[..., None], tuple[str, str]]] = [
        *((work.edit, (who, str(job))) for who, (job,) in zip(("wenna", "tobin"), edited)),
        (work.issue, ("isolde", str(sized[0][0]))),
        (work.read, ("tobin", str(pump[0][0]))),
    ]
    threads = [threading.Thread(target=what, args=given) for what, given in tasks]
    for one in threads:
        one.start()
    return work, threads


def done(work: chaos.Work) -> int:
    """How much was acknowledged so far."""
    return (
        sum(map(len, work.edits.values()))
        + sum(map(len, work.papers.values()))
        + len(work.readings)
    )


def over(work: chaos.Work, threads: list[threading.Thread], files: Path, told: str) -> bool:
    """End the work, print what was lost; whether anything was."""
    work.over.set()
    for one in threads:
        one.join()
    stuck = chaos.quiet(work.database)
    lost, half = chaos.judge(work, files)
    print(f"{told}: {done(work)} acknowledged, lost {len(lost)} {lost[:3]},", end=" ")
    print(f"half {len(half)} {half[:3]}, stuck {stuck or 0}", flush=True)
    return bool(lost or half or stuck)


def right_s() -> float:
    """The time by a program that does not jump, as this one does."""
    env = {name: text for name, text in os.environ.items() if name != "LD_PRELOAD"}
    told = subprocess.run(["date", "+%s"], env=env, capture_output=True, text=True, check=True)
    return float(told.stdout)


def jumps(port: int, database: str, files: Path, clock: Path) -> bool:
    """An hour on, an hour back, and where it was; each time work must go on."""
    work, threads = at_work(port, database)
    bad = False
    for name, offset_s in (("on", _HOUR_S), ("back", -_HOUR_S), ("right", 0)):
        time.sleep(_WORK_S)
        clock.write_text(f"{offset_s:+d}\n")
        with psycopg.connect(database) as held:
            row = held.execute("select extract(epoch from clock_timestamp())").fetchone()
        shown_s = float(row[0]) - right_s() if row else 0.0
        before = done(work)
        standing.until(lambda before=before: done(work) > before + 3, f"work after {name}")
        standing.until(lambda: standing.said(port, "/health") == "kyrtos ok\n", f"well, {name}")
        print(f"clock {name}: the database is {shown_s:+.0f} s off; work and /health go on")
        bad |= abs(shown_s - offset_s) > 60
    return over(work, threads, files, "clock") or bad


def full(port: int, database: str, files: Path, disk: Path) -> bool:
    """Nothing left to write to, and then room again."""
    work, threads = at_work(port, database)
    standing.until(lambda: done(work) > 5, "work before")
    balloon = disk / "balloon"
    said: list[str] = []

    def fill() -> bool:
        with suppress(OSError), balloon.open("ab", buffering=0) as out:
            while True:
                out.write(b"\0" * 65536)
        said.append(standing.said(port, "/health"))
        return said[-1] not in ("", "kyrtos ok\n")

    standing.until(fill, "/health says that the disk is full")
    print(f"disk full: /health says {said[-1]!r}")
    time.sleep(_WORK_S)
    balloon.unlink()
    before = done(work)
    standing.until(lambda: standing.said(port, "/health") == "kyrtos ok\n", "well again")
    standing.until(lambda: done(work) > before + 3, "work again")
    return over(work, threads, files, "full disk")


def main() -> None:
    """Run both; ends with 1 when anything was lost, half or stuck."""
    database, disk = os.environ["DATABASE_URL"], Path(os.environ["CLUSTER_HOME"]).parent
    clock = Path(os.environ["FAKETIME_TIMESTAMP_FILE"])
    port = standing.free_port()
    with tempfile.TemporaryDirectory(prefix="ky") as name:
        place = Path(name)
        place.chmod(0o755)
        env = standing.environment(place, database)
        standing.collect(env)
        files = Path(env["KYRTOS_FILES"])
        with standing.supervised(place, env, port, database=True):
            bad = jumps(port, database, files, clock)
            if disk.is_mount():
                print(f"the disk holds {shutil.disk_usage(disk).total / 1e6:.0f} MB")
                bad |= full(port, database, files, disk)
            else:
                print("full disk: not tried, for the right to mount a small one is wanting")
    raise SystemExit(bad)


if __name__ == "__main__":
    main()

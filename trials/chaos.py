"""Kills at random under work, and a count of what was lost: ./run chaos [minutes].

On loopback, with a database and a folder of its own. Two people edit, one issues papers, one
imports, one reads at a pump, one sends photos, one takes the shop's file out; meanwhile the
server's master, its processes, the worker, the proxy, the database and single connections of it are
killed, one after the other. At the end everything that was acknowledged must be there once, nothing
half, and nothing stuck.
"""

from __future__ import annotations

import argparse
import hashlib
import io
import os
import random
import re
import signal
import statistics
import subprocess
import tempfile
import threading
import time
import uuid
import zipfile
from collections import Counter
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

import psycopg

from trials import standing
from trials.visitor import Visitor

TARGETS = ("master", "server", "worker", "proxy", "database", "connection")
_TRY_AGAIN_S = 0.2
_QUIET_S = 240  # for what was left to be taken up


class Work:
    """What people do, and what they were told is done."""

    def __init__(self, port: int, database: str) -> None:
        self.port, self.database = port, database
        self.over = threading.Event()
        self.edits: dict[str, list[str]] = {}
        self.papers: dict[str, dict[int, str]] = {}
        self.imports: set[str] = set()
        self.readings: set[str] = set()
        self.photos: set[str] = set()
        self.files: set[str] = set()
        self.tries: Counter[str] = Counter()

    def visitor(self, who: str) -> Visitor:
        """Signed in, however long that takes."""
        while not self.over.is_set():
            visitor = Visitor(self.port)
            if visitor.come_in(who):
                return visitor
            time.sleep(_TRY_AGAIN_S)
        return Visitor(self.port)

    def edit(self, who: str, job: str) -> None:
        """Type one figure after the other; what is not acknowledged is sent again."""
        visitor, number, done = self.visitor(who), 0, self.edits.setdefault(job, [])
        while not self.over.is_set():
            text = f"{100 + number} mm"
            sent = {"path": "answers.rise", "value": text, "page": f"chaos-{who}"}
            sent["revision"] = str(self.revision(job))
            answer = visitor.post(f"/jobs/{job}/change/", sent, part=True)
            self.tries["edits"] += 1
            if answer.status == 200:
                done.append(text)
                number += 1
            elif answer.status in (401, 403):
                visitor = self.visitor(who)
            else:
                time.sleep(_TRY_AGAIN_S)

    def revision(self, job: str) -> int:
        """The revision in force, as the page would know it."""
        with suppress(psycopg.Error), psycopg.connect(self.database, connect_timeout=3) as held:
            row = held.execute(
                "select current_revision from jobs_job where id = %s", [job]
            ).fetchone()
            return int(row[0]) if row else 0
        return 0

    def issue(self, who: str, job: str) -> None:
        """One paper after the other, each kept as it came."""
        visitor, held = self.visitor(who), self.papers.setdefault(job, {})
        while not self.over.is_set():
            answer = visitor.post(f"/jobs/{job}/paper/issue/", {})
            self.tries["papers"] += 1
            to = re.search(r"/paper/(\d+)/", answer.head.get("Location", ""))
            if answer.status == 302 and to:
                pdf = visitor.get(f"/jobs/{job}/paper/{to[1]}/")
                if pdf.status == 200 and pdf.body.startswith(b"%PDF"):
                    held[int(to[1])] = hashlib.sha256(pdf.body).hexdigest()
            elif answer.status in (401, 403) or "sign-in" in answer.head.get("Location", ""):
                visitor = self.visitor(who)
            time.sleep(_TRY_AGAIN_S)

    def bring_in(self, who: str, file: bytes) -> None:
        """One file after the other, taken as soon as it is read."""
        visitor = self.visitor(who)
        while not self.over.is_set():
            answer = visitor.send_file("/catalogue/import/", "pumps.csv", file)
            self.tries["imports"] += 1
            place = answer.head.get("Location", "")
            if answer.status != 302 or "/import/" not in place or "sign-in" in place:
                visitor = self.visitor(who)
                continue
            while not self.over.is_set():
                page = visitor.get(place).text
                if "Take" in page and 'value="take"' in page:
                    if visitor.post(place, {"do": "take", "take_doubtful": "1"}).status == 302:
                        self.imports.add(place)
                elif "added," in page or "Nothing was imported" in page:
                    break
                time.sleep(_TRY_AGAIN_S)

    def read(self, who: str, code: str) -> None:
        """One set of readings after the other, each sent again until it is acknowledged."""
        visitor, token = self.visitor(who), str(uuid.uuid4())
        while not self.over.is_set():
            sent = {"flow": "10 l in 4 s", "outlet": "0.9 bar", "token": token}
            answer = visitor.post(f"/p/{code}/commission/", sent)
            self.tries["readings"] += 1
            place = answer.head.get("Location", "")
            if answer.status == 302 and "/readings/" in place:
                self.readings.add(token)
                token = str(uuid.uuid4())
            elif answer.status in (401, 403) or "sign-in" in place:
                visitor = self.visitor(who)
            time.sleep(_TRY_AGAIN_S)

    def photograph(self, who: str, site: str, photo: bytes) -> None:
        """One photo after the other, told apart by its name."""
        visitor, number = self.visitor(who), 0
        while not self.over.is_set():
            name = f"chaos-{number}.jpg"
            answer = visitor.send_file(f"/sites/{site}/files/", name, photo, {"place": "pump"})
            self.tries["photos"] += 1
            place = answer.head.get("Location", "")
            if answer.status == 302 and place.endswith(f"/sites/{site}/"):
                self.photos.add(name)
            elif answer.status in (401, 403) or "sign-in" in place:
                visitor = self.visitor(who)
            number += 1
            time.sleep(_TRY_AGAIN_S)

    def take_out(self, who: str) -> None:
        """The shop's file, asked for and waited for, time and again."""
        visitor = self.visitor(who)
        while not self.over.is_set():
            answer = visitor.post("/shop-file/new/", {})
            self.tries["shop files"] += 1
            place = answer.head.get("Location", "")
            if answer.status != 302 or "/shop-file/" not in place:
                visitor = self.visitor(who)
                continue
            while not self.over.is_set():
                page = visitor.get(place)
                if page.status == 200 and "Being made" not in page.text:
                    content = visitor.get(f"{place}content/")
                    if content.status == 200:
                        self.files.add(_zip_problem(content.body))
                    break
                time.sleep(1)


def _zip_problem(content: bytes) -> str:
    """What is wrong with a shop's file that was given out; '' for nothing."""
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as held:
            return held.testzip() or ("" if "shop.json" in held.namelist() else "no shop.json")
    except zipfile.BadZipFile as problem:
        return str(problem)


def pids(keeper: subprocess.Popen[bytes], data: Path, target: str, database: str) -> list[int]:
    """Whom to kill."""
    if target == "database":
        with suppress(OSError, ValueError):
            return [int((data / "postmaster.pid").read_text().split()[0])]
        return []
    if target == "connection":
        with suppress(psycopg.Error), psycopg.connect(database, connect_timeout=3) as held:
            rows = held.execute(
                "select pid from pg_stat_activity where datname = current_database()"
                " and pid <> pg_backend_pid() order by random() limit 1"
            ).fetchall()
            return [int(pid) for (pid,) in rows]
        return []
    words = {
        "master": "gunicorn: master",
        "server": "gunicorn: worker",
        "worker": "procrastinate worker",
        "proxy": "nginx",
    }
    return standing.session(keeper.pid, words[target])[:1]


def well(port: int, gone: list[int]) -> bool:
    """Whether it serves again and its worker is another one than was killed."""
    return standing.said(port) == "kyrtos ok\n" and not any(
        Path(f"/proc/{pid}").exists() for pid in gone
    )


def kill_for(
    keeper: subprocess.Popen[bytes], data: Path, work: Work, seconds: float, dice: random.Random
) -> dict[str, list[float]]:
    """Kill one after the other; seconds until all is well, by what was killed."""
    took: dict[str, list[float]] = {target: [] for target in TARGETS}
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        time.sleep(dice.uniform(0.3, 1.5))
        target = dice.choice(TARGETS)
        gone = pids(keeper, data, target, work.database)
        if not gone:
            continue
        for pid in gone:
            with suppress(ProcessLookupError):
                os.kill(pid, signal.SIGKILL)
        began = time.monotonic()
        if target == "worker":
            standing.until(
                lambda: standing.session(keeper.pid, "procrastinate worker"),
                "another worker",
            )
        standing.until(lambda gone=gone: well(work.port, gone), f"all well after {target}")
        took[target].append(time.monotonic() - began)
    return took


def quiet(database: str) -> str:
    """Wait until nothing waits; what is stuck, '' for nothing."""
    busy = (
        "select name, state from catalogue_import where state in ('reading', 'taking', 'undoing')"
    )
    left = (
        "select task_name, status::text from procrastinate_jobs where status in ('todo', 'doing')"
        " and coalesce(scheduled_at, now()) <= now()"
    )
    end = time.monotonic() + _QUIET_S
    rows: list[object] = []
    while time.monotonic() < end:
        with suppress(psycopg.Error), psycopg.connect(database, connect_timeout=3) as held:
            rows = [*held.execute(busy).fetchall(), *held.execute(left).fetchall()]
            if not rows:
                return ""
        time.sleep(1)
    return f"{len(rows)}: {rows[:3]}"


def judge(work: Work, files: Path) -> tuple[list[str], list[str]]:
    """What was acknowledged and is not there, and what is there by half."""
    lost, half = judge_after_the_sale(work, files)
    with psycopg.connect(work.database) as held:
        for job, texts in work.edits.items():
            rows = held.execute(
                "select document->'answers'->'rise'->>'text' from jobs_revision where job_id = %s"
                " order by number",
                [job],
            ).fetchall()
            kept = [text for (text,) in rows]
            lost += [f"edit {text} of {job}" for text in texts if text not in kept]
            order = [text for text in dict.fromkeys(kept) if text in texts]
            half += [] if order == texts else [f"edits of {job} are out of order"]
        for job, papers in work.papers.items():
            for number, digest in papers.items():
                row = held.execute(
                    "select pdf from paper_paper where job_id = %s and number = %s", [job, number]
                ).fetchone()
                if row is None:
                    lost.append(f"paper {number} of {job}")
                elif hashlib.sha256(row[0]).hexdigest() != digest:
                    half.append(f"paper {number} of {job} is another")
        rows = held.execute(
            "select i.id, cardinality(array(select jsonb_array_elements_text(i.ids))),"
            " (select count(*) from catalogue_catalogueentry e where e.shop_id = i.shop_id and"
            " i.ids ? e.pump_id), state from catalogue_import i"
        ).fetchall()
        for number, told, there, state in rows:
            if state == "taken" and told != there:
                half.append(f"import {number}: {there} of {told} pumps")
        states = {f"/catalogue/import/{number}/": state for number, _, _, state in rows}
        lost += [
            f"import {place} is {states.get(place, 'gone')}"
            for place in work.imports
            if states.get(place) not in ("taken", "failed")
        ]
    return lost, half


def judge_after_the_sale(work: Work, files: Path) -> tuple[list[str], list[str]]:
    """The same of readings, photos and shop files."""
    lost, half = [], [f"a shop's file: {one}" for one in work.files if one]
    with psycopg.connect(work.database) as held:
        for token in work.readings:
            row = held.execute(
                "select count(*) from installations_readingset where token = %s", [token]
            ).fetchone()
            lost += [] if row and row[0] == 1 else [f"readings {token}"]
        rows = held.execute("select name, stored, size_bytes from customers_sitefile").fetchall()
        names = Counter(name for name, _, _ in rows)
        lost += [f"photo {name}" for name in work.photos if not names[name]]
        for name, stored, size in rows:
            place = files / stored
            if not place.is_file() or place.stat().st_size != size:
                half.append(f"photo {name} is not as it was kept")
    return lost, half


def a_photo() -> bytes:
    """A picture as a phone sends it."""
    from PIL import Image

    out = io.BytesIO()
    Image.effect_noise((640, 480), 60).convert("RGB").save(out, "JPEG")
    return out.getvalue()


def main() -> None:
    """Run it, print what came of it; ends with 1 when anything was lost, half or stuck."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("minutes", nargs="?", type=float, default=2.0)
    parser.add_argument("--seed", type=int, default=1)
    given = parser.parse_args()
    database, data = os.environ["DATABASE_URL"], Path(os.environ["CLUSTER_HOME"]) / "data"
    from benchmarks import generated
    from sizing.pump.catalogue_write import write_csv

    file = write_csv(generated.pumps(1500)[:1200]).encode()
    port = standing.free_port()
    with tempfile.TemporaryDirectory(prefix="ky") as name:
        place = Path(name)
        place.chmod(0o755)
        env = standing.environment(place, database)
        standing.collect(env)
        with standing.supervised(place, env, port, database=True) as keeper:
            work = Work(port, database)
            with psycopg.connect(database) as held:
                jobs = [
                    str(one)
                    for (one,) in held.execute(
                        "select id from jobs_job where kind = 'sump' order by created limit 3"
                    )
                ]
                # one that nobody edits: at a job edited on and on no paper is ever up to date
                sized = held.execute(
                    "select id from jobs_job where title like 'Plant nursery%'"
                ).fetchone()
                pump = held.execute(
                    "select code, site_id from installations_installedpump"
                    " where state = 'running' order by id limit 1"
                ).fetchone()
            assert sized
            assert pump
            code, site = str(pump[0]), str(pump[1])
            tasks: list[tuple[Callable[..., None], tuple[object, ...]]] = [
                *((work.edit, (who, job)) for who, job in zip(("wenna", "tobin"), jobs)),
                (work.issue, ("isolde", str(sized[0]))),
                (work.bring_in, ("isolde", file)),
                (work.read, ("tobin", code)),
                (work.photograph, ("wenna", site, a_photo())),
                (work.take_out, ("isolde",)),
            ]
            threads = [threading.Thread(target=what, args=with_) for what, with_ in tasks]
            for one in threads:
                one.start()
            took = kill_for(keeper, data, work, given.minutes * 60, random.Random(given.seed))
            work.over.set()
            for one in threads:
                one.join()
            stuck = quiet(database)
            lost, half = judge(work, Path(env["KYRTOS_FILES"]))
    report(work, took, lost, half, stuck)
    raise SystemExit(bool(lost or half or stuck))


def report(
    work: Work, took: dict[str, list[float]], lost: list[str], half: list[str], stuck: str
) -> None:
    """The table."""
    every = sorted(second for one in took.values() for second in one)
    print(f"{len(every)} kills; all well again after (s):")
    for target, times in took.items():
        if times:
            print(
                f"  {target:10} {len(times):4} times, median {statistics.median(times):5.1f},"
                f" worst {max(times):5.1f}"
            )
    if every:
        print(f"  together   median {statistics.median(every):5.1f}, worst {every[-1]:5.1f}")
    edits = sum(map(len, work.edits.values()))
    papers = sum(map(len, work.papers.values()))
    print(f"acknowledged: {edits} edits, {papers} papers, {len(work.imports)} imports,")
    print(f"  {len(work.readings)} readings, {len(work.photos)} photos; tried: {dict(work.tries)}")
    print(f"lost:  {len(lost)} {'; '.join(lost[:5])}")
    print(f"half:  {len(half)} {'; '.join(half[:5])}")
    print(f"stuck: {stuck or 0}")


if __name__ == "__main__":
    main()

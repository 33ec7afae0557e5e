"""A worksheet edit on a running server with 10,000 pumps.

Median and 95th percentile of the whole answer.
"""

from __future__ import annotations

import os
import re
import signal
import statistics
import subprocess
import sys
import tempfile
import time
import urllib.error
import urllib.parse
import urllib.request
from http.cookiejar import CookieJar

PUMPS, EDITS, PORT = 10_000, 120, int(os.environ.get("KYRTOS_BENCH_PORT", "8765"))
BASE = f"http://127.0.0.1:{PORT}"


def prepare() -> None:
    """A database of its own with the demo shop and a large catalogue."""
    import django

    django.setup()
    from django.core.management import call_command
    from django.db import connection

    from benchmarks import generated, place
    from kyrtos.catalogue.services import store
    from kyrtos.demo.management.commands.load_demo import load

    place.empty()
    call_command("migrate", interactive=False, verbosity=0)
    store(load(), generated.catalogue(PUMPS).pumps)
    connection.close()


def main() -> None:
    """Start gunicorn, edit, report."""
    prepare()
    with tempfile.TemporaryDirectory() as static:
        env = os.environ | {
            "KYRTOS_DEMO": "1",
            "KYRTOS_HTTPS": "0",
            "KYRTOS_SECRET_KEY": "bench",
            "KYRTOS_STATIC_ROOT": static,
            "DJANGO_SETTINGS_MODULE": "kyrtos.config.settings",
        }
        subprocess.run(
            [sys.executable, "manage.py", "collectstatic", "--noinput", "-v", "0"],
            env=env,
            check=True,
        )
        command = [
            sys.executable,
            "-m",
            "gunicorn",
            "kyrtos.config.wsgi:application",
            "--bind",
            f"127.0.0.1:{PORT}",
            "--workers",
            "2",
            "--threads",
            "2",
            "--preload",
            "--log-level",
            "error",
        ]
        server = subprocess.Popen(command, env=env, start_new_session=True)
        try:
            measure()
        finally:
            os.killpg(server.pid, signal.SIGTERM)
            server.wait()


def measure() -> None:
    """Sign in, warm the workers, then time edits one after the other."""
    opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(CookieJar()))
    _until_up(opener)
    token = _token(opener.open(f"{BASE}/sign-in/").read().decode())
    bench = (
        opener.open(
            f"{BASE}/sign-in/demo/", urllib.parse.urlencode({"csrfmiddlewaretoken": token}).encode()
        )
        .read()
        .decode()
    )
    job = re.search(r'href="(/jobs/[0-9a-f-]+/)">Bookbinder', bench)
    assert job is not None
    page = opener.open(BASE + job[1]).read().decode()
    headers = {"HX-Request": "true", "X-CSRFToken": _token(page), "Referer": BASE + job[1]}
    taken, size = [], 0
    for number in range(EDITS + 20):
        sent = urllib.parse.urlencode(
            {
                "path": "answers.rise",
                "value": f"{90 + number % 30} mm",
                "revision": "1",
                "page": "bench",
            }
        ).encode()
        start = time.perf_counter()
        answer = opener.open(urllib.request.Request(f"{BASE}{job[1]}change/", sent, headers)).read()
        if number >= 20:  # the first ones warm both workers
            taken.append(time.perf_counter() - start)
        size = len(answer)
    taken.sort()
    print(
        f"worksheet edit, {PUMPS} pumps, {EDITS} edits: median"
        f" {statistics.median(taken) * 1e3:.0f} ms, 95th percentile"
        f" {taken[int(0.95 * len(taken))] * 1e3:.0f} ms, {size / 1000:.0f} kB an answer"
    )
    pages = sorted(_timed(opener, path) for path in ("/", "/catalogue/") for _ in range(20))
    print(
        f"bench and catalogue pages: median {statistics.median(pages) * 1e3:.0f} ms, slowest"
        f" {pages[-1] * 1e3:.0f} ms"
    )


def _timed(opener: urllib.request.OpenerDirector, path: str) -> float:
    start = time.perf_counter()
    opener.open(BASE + path).read()
    return time.perf_counter() - start


def _token(text: str) -> str:
    found = re.search(r'csrfmiddlewaretoken" value="([^"]+)"', text)
    assert found is not None
    return found[1]


def _until_up(opener: urllib.request.OpenerDirector) -> None:
    for _ in range(150):
        try:
            opener.open(f"{BASE}/health/web").read()
        except (urllib.error.URLError, ConnectionError):
            time.sleep(0.2)
        else:
            return
    raise SystemExit("the server did not come up")


if __name__ == "__main__":
    main()

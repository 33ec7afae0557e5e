"""The whole place on loopback, as ./run starts it: servers, worker and proxy."""

from __future__ import annotations

import http.client
import os
import re
import signal
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]


def free_port() -> int:
    """A port on loopback that nobody listens on."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def environment(place: Path, database: str) -> dict[str, str]:
    """Of a server that keeps its files in ``place``."""
    return os.environ | {
        "DATABASE_URL": database,
        "DJANGO_SETTINGS_MODULE": "kyrtos.config.settings",
        "KYRTOS_STATIC_ROOT": str(place / "static"),
        "KYRTOS_CACHE": str(place / "cache"),
        "KYRTOS_FILES": str(place / "files"),
        "KYRTOS_DEMO": "1",
        "KYRTOS_HTTPS": "0",
        "KYRTOS_SECRET_KEY": "only-for-this-trial",
    }


def collect(env: dict[str, str]) -> None:
    """Put the static files where a server of that environment looks for them."""
    command = [sys.executable, "manage.py", "collectstatic", "--noinput", "-v", "0"]
    subprocess.run(command, env=env, check=True, cwd=ROOT)


def said(port: int, address: str = "/health/web") -> str:
    """What it answers; '' when it does not."""
    try:
        with urllib.request.urlopen(f"http://127.0.0.1:{port}{address}", timeout=5) as answer:
            return str(answer.read().decode())
    except urllib.error.HTTPError as problem:
        return problem.read().decode()
    except (OSError, http.client.HTTPException):  # gone, or gone in the midst of its answer
        return ""


def until(holds: Callable[[], object], what: str) -> None:
    """Wait for a state; how long that takes is the machine's affair."""
    for _ in range(600):
        if holds():
            return
        time.sleep(0.2)
    raise AssertionError(f"waited for it in vain: {what}")


@contextmanager
def running(
    command: list[str], env: dict[str, str], log: Path | None = None
) -> Iterator[subprocess.Popen[bytes]]:
    """A process of ours in a group of its own, killed at the end with all that it started."""
    with open(log or os.devnull, "ab") as out:
        process = subprocess.Popen(
            command, env=env, start_new_session=True, cwd=ROOT, stdout=out, stderr=out
        )
        try:
            yield process
        finally:
            kill(process)


def kill(process: subprocess.Popen[bytes]) -> None:
    """End a process and its group without mercy."""
    if process.poll() is None:
        with suppress(ProcessLookupError):
            os.killpg(process.pid, signal.SIGKILL)
        process.wait()


def web() -> list[str]:
    """The command of one web machine; its address goes into KYRTOS_BIND."""
    return [sys.executable, "-m", "gunicorn", "--config", "python:kyrtos.config.gunicorn"]


@contextmanager
def supervised(
    place: Path, env: dict[str, str], port: int, *, database: bool = False
) -> Iterator[subprocess.Popen[bytes]]:
    """Server, worker and proxy as ./run demo has them; the keeper of the database by choice."""
    own = {
        "KYRTOS_STATE": str(place),
        "KYRTOS_PYTHON": sys.executable,
        "KYRTOS_PORT": str(port),
        "KYRTOS_PUBLIC_URL": f"http://127.0.0.1:{port}",
        "KYRTOS_BIND": f"unix:{place}/web.sock",
        "KYRTOS_RUN_WORKER": "true",
        "KYRTOS_RUN_FRONT": "true",
        "KYRTOS_RUN_DATABASE": str(database).lower(),
        "KYRTOS_WORKER_LOG": str(place / "worker.log"),
        "KYRTOS_WORKER_LOG_BYTES": "2MB",
    }
    command = [sys.executable, "-m", "supervisor.supervisord", "-c", "deploy/supervisor.conf"]
    with running(command, env | own, place / "server.log") as process:
        until(lambda: "ok" in said(port), "the server")
        yield process
        if process.poll() is None:
            process.terminate()
            process.wait()
    until(lambda: not session(process.pid), "all of it gone")


def most_mb(keeper: int) -> int:
    """The most memory that a process of the server or its worker has had, in MB."""
    most = 0
    for one in session(keeper):
        with suppress(OSError):
            told = (Path("/proc") / str(one) / "status").read_text()
            found = re.search(r"^VmHWM:\s+(\d+) kB", told, re.M)
            most = max(most, int(found[1]) // 1024 if found else 0)
    return most


def session(keeper: int, part: str = "") -> list[int]:
    """Processes that one started, it too, whose command line holds a word."""
    found = []
    for one in Path("/proc").iterdir():
        with suppress(OSError, ValueError):
            fields = (one / "stat").read_text().rpartition(")")[2].split()
            told = (one / "cmdline").read_bytes().replace(b"\0", b" ")
            if fields[0] != "Z" and int(fields[3]) == keeper and part.encode() in told:
                found.append(int(one.name))
    return found

"""The whole place on loopback, as ./run starts it: servers, worker and proxy, for the tests."""

from __future__ import annotations

import os
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

from django.db import connection

ROOT = Path(__file__).resolve().parents[1]


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def environment(place: Path) -> dict[str, str]:
    """Of a server on the test's own database."""
    held = connection.settings_dict
    at = f"{held['HOST']}:{held['PORT']}/{held['NAME']}"
    return os.environ | {
        "DATABASE_URL": f"postgresql://{held['USER']}:{held['PASSWORD']}@{at}",
        "DJANGO_SETTINGS_MODULE": "kyrtos.config.settings",
        "KYRTOS_STATIC_ROOT": str(place / "static"),
        "KYRTOS_CACHE": str(place / "cache"),
        "KYRTOS_DEMO": "1",
        "KYRTOS_HTTPS": "0",
        "KYRTOS_SECRET_KEY": "only-for-this-test",
    }


def collect(env: dict[str, str]) -> None:
    command = [sys.executable, "manage.py", "collectstatic", "--noinput", "-v", "0"]
    subprocess.run(command, env=env, check=True, cwd=ROOT)


def said(port: int, address: str = "/health/web") -> str:
    """What it answers; '' when it does not."""
    try:
        with urllib.request.urlopen(f"http://127.0.0.1:{port}{address}", timeout=5) as answer:
            return str(answer.read().decode())
    except urllib.error.HTTPError as problem:
        return problem.read().decode()
    except OSError:
        return ""


def until(holds: Callable[[], object], what: str) -> None:
    """Wait for a state; how long that takes is the machine's affair."""
    for _ in range(600):
        if holds():
            return
        time.sleep(0.2)
    raise AssertionError(f"waited for it in vain: {what}")


@contextmanager
def running(command: list[str], env: dict[str, str]) -> Iterator[subprocess.Popen[bytes]]:
    """A process of ours in a group of its own, killed at the end with all that it started."""
    process = subprocess.Popen(command, env=env, start_new_session=True, cwd=ROOT)
    try:
        yield process
    finally:
        kill(process)


def kill(process: subprocess.Popen[bytes]) -> None:
    if process.poll() is None:
        with suppress(ProcessLookupError):
            os.killpg(process.pid, signal.SIGKILL)
        process.wait()


def web() -> list[str]:
    """The command of one web machine; its address goes into KYRTOS_BIND."""
    return [sys.executable, "-m", "gunicorn", "--config", "python:kyrtos.config.gunicorn"]


@contextmanager
def supervised(place: Path, env: dict[str, str], port: int) -> Iterator[subprocess.Popen[bytes]]:
    """Server, worker and proxy as ./run demo has them, but for the database."""
    own = {
        "KYRTOS_STATE": str(place),
        "KYRTOS_PYTHON": sys.executable,
        "KYRTOS_PORT": str(port),
        "KYRTOS_BIND": f"unix:{place}/web.sock",
        "KYRTOS_RUN_WORKER": "true",
        "KYRTOS_RUN_FRONT": "true",
        "KYRTOS_RUN_DATABASE": "false",
        "KYRTOS_WORKER_LOG": str(place / "worker.log"),
        "KYRTOS_WORKER_LOG_BYTES": "2MB",
    }
    command = [sys.executable, "-m", "supervisor.supervisord", "-c", "deploy/supervisor.conf"]
    with running(command, env | own) as process:
        until(lambda: "ok" in said(port), "the server")
        yield process
        if process.poll() is None:
            process.terminate()
            process.wait()
    until(lambda: not session(process), "all of it gone")


def session(keeper: subprocess.Popen[bytes], part: str = "") -> list[int]:
    """Processes that one started, it too, whose command line holds a word."""
    found = []
    for one in Path("/proc").iterdir():
        with suppress(OSError, ValueError):
            fields = (one / "stat").read_text().rpartition(")")[2].split()
            told = (one / "cmdline").read_bytes().replace(b"\0", b" ")
            if fields[0] != "Z" and int(fields[3]) == keeper.pid and part.encode() in told:
                found.append(int(one.name))
    return found

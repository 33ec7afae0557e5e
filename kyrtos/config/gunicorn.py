"""How gunicorn serves Kyrtos: ``gunicorn --config python:kyrtos.config.gunicorn``."""

from __future__ import annotations

import ctypes
import os
import signal
from typing import Any

_PR_SET_PDEATHSIG = 1  # prctl(2)

wsgi_app = "kyrtos.config.wsgi:application"
bind = os.environ.get("KYRTOS_BIND", "127.0.0.1:8000")
workers = int(os.environ.get("KYRTOS_WORKERS", "2"))
threads = 4  # one of them for what takes long, one that waits for it (accounts/share.py)
preload_app = True
timeout = 60
graceful_timeout = 20
loglevel = "warning"
# Where a proxy keeps connections open, it finds them open; it lets go first.
keepalive = 35


def post_fork(server: Any, worker: Any) -> None:
    """A worker ends with its master, however that ends: none is left that holds the port."""
    ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, signal.SIGKILL)
    if os.getppid() != server.pid:  # it went before this was said
        os._exit(0)

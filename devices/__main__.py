"""Serve the stand-ins: ``python -m devices [PORT] [TIMES AS FAST]``; see docs/devices.md."""

from __future__ import annotations

import json
import sys
import time
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import ClassVar
from urllib.parse import parse_qs, urlparse

from devices.site import HEADINGS, Site, stamp

PORT, SPEED = 8123, 60.0
_MOST_SECONDS, _MOST_ROWS = 3600.0, 20_000


class Handler(BaseHTTPRequestHandler):
    """Three addresses: the last reading, a log of the day so far, and a stream."""

    site: ClassVar[Site]

    def do_GET(self) -> None:
        """Answer one of the three."""
        parts = urlparse(self.path)
        asked = {key: values[0] for key, values in parse_qs(parts.query).items()}
        if parts.path == "/now.json":
            now = self.site.now_s()
            self._send("application/json", json.dumps(self.site.read(now).as_json(stamp(now))))
        elif parts.path == "/log.csv":
            self._send("text/csv; charset=utf-8", self._log(asked))
        elif parts.path == "/stream.csv":
            self._stream(asked)
        else:
            self.send_error(404, "try /now.json, /log.csv?hours=6 or /stream.csv?seconds=60")

    def _send(self, kind: str, text: str) -> None:
        content = text.encode()
        self.send_response(200)
        self.send_header("Content-Type", kind)
        self.send_header("Content-Length", str(len(content)))
        self.end_headers()
        self.wfile.write(content)

    def _log(self, asked: dict[str, str]) -> str:
        """The last hours of the demo's own day, a row every so many seconds of it."""
        hours, every = _number(asked, "hours", 6.0, 23.0), _number(asked, "every", 10.0, 3600.0)
        rows = min(int(hours * 3600 / every), _MOST_ROWS)
        end = max(self.site.now_s(), hours * 3600.0 + every)
        moments = [end - (rows - at) * every for at in range(rows + 1)]
        return "\n".join(
            [HEADINGS, *(self.site.read(one).csv(stamp(one)) for one in moments if one >= 0), ""]
        )

    def _stream(self, asked: dict[str, str]) -> None:
        seconds, every = (
            _number(asked, "seconds", 60.0, _MOST_SECONDS),
            _number(asked, "every", 0.2, 60.0),
        )
        self.send_response(200)
        self.send_header("Content-Type", "text/csv; charset=utf-8")
        self.end_headers()
        try:
            self.wfile.write(f"{HEADINGS}\n".encode())
            end = time.monotonic() + seconds
            while time.monotonic() < end:
                now = self.site.now_s()
                self.wfile.write(f"{self.site.read(now).csv(stamp(now))}\n".encode())
                self.wfile.flush()
                time.sleep(every)
        except (BrokenPipeError, ConnectionResetError):
            return  # the page was closed

    def log_message(self, format: str, *args: object) -> None:
        """Say nothing of each reading."""


def _number(asked: dict[str, str], key: str, otherwise: float, most: float) -> float:
    try:
        found = float(asked.get(key, otherwise))
    except ValueError:
        return otherwise
    return min(max(found, 0.05), most) if found == found else otherwise


def main() -> None:
    """Serve until stopped."""
    port = int(sys.argv[1]) if len(sys.argv) > 1 else PORT
    Handler.site = Site(speed=float(sys.argv[2]) if len(sys.argv) > 2 else SPEED)
    server = ThreadingHTTPServer(("127.0.0.1", port), Handler)
    server.daemon_threads = True
    print(f"Devices of the demo cellar: http://127.0.0.1:{server.server_port}/now.json", flush=True)
    server.serve_forever()


if __name__ == "__main__":
    main()

"""Somebody with cookies, over plain HTTP."""

from __future__ import annotations

import http.client
import http.cookies
import urllib.parse
import uuid
from dataclasses import dataclass, field


@dataclass(frozen=True)
class Answer:
    """What came back; status 0 when nothing did."""

    status: int
    body: bytes = b""
    head: dict[str, str] = field(default_factory=dict)

    @property
    def text(self) -> str:
        return self.body.decode("utf-8", errors="replace")


class Visitor:
    """One browser's worth of cookies, one request at a time."""

    def __init__(self, port: int, patience_s: float = 20.0) -> None:
        self.port, self.patience_s = port, patience_s
        self.cookies: dict[str, str] = {}

    def ask(
        self,
        method: str,
        address: str,
        body: bytes = b"",
        kind: str = "application/x-www-form-urlencoded",
        head: dict[str, str] | None = None,
    ) -> Answer:
        """One request, as it is."""
        line = http.client.HTTPConnection("127.0.0.1", self.port, timeout=self.patience_s)
        sent = {
            "Host": f"127.0.0.1:{self.port}",
            "Cookie": "; ".join(f"{name}={value}" for name, value in self.cookies.items()),
            "X-CSRFToken": self.cookies.get("csrftoken", ""),
            **({"Content-Type": kind} if method == "POST" else {}),
            **(head or {}),
        }
        try:
            line.request(method, address, body or None, sent)
            came = line.getresponse()
            answer = Answer(came.status, came.read(), dict(came.getheaders()))
            for told in came.msg.get_all("Set-Cookie") or ():
                for name, one in http.cookies.SimpleCookie(told).items():
                    self.cookies[name] = one.value
        except (OSError, http.client.HTTPException):
            return Answer(0)
        finally:
            line.close()
        return answer

    def get(self, address: str, **head: str) -> Answer:
        return self.ask("GET", address, head=head)

    def post(self, address: str, sent: dict[str, str], *, part: bool = False) -> Answer:
        """A form; ``part`` as a script sends it."""
        head = {"HX-Request": "true"} if part else {}
        return self.ask("POST", address, urllib.parse.urlencode(sent).encode(), head=head)

    def send_file(
        self, address: str, name: str, content: bytes, more: dict[str, str] | None = None
    ) -> Answer:
        """A form with a file in it."""
        edge = uuid.uuid4().hex
        parts = [
            f'--{edge}\r\nContent-Disposition: form-data; name="{key}"\r\n\r\n{value}\r\n'.encode()
            for key, value in (more or {}).items()
        ]
        head = f'--{edge}\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\n'
        body = b"".join(
            [*parts, head.encode(), b"Content-Type: application/octet-stream\r\n\r\n", content]
        )
        body += f"\r\n--{edge}--\r\n".encode()
        return self.ask("POST", address, body, f"multipart/form-data; boundary={edge}")

    def come_in(self, who: str) -> bool:
        """As somebody of the demonstration."""
        self.get("/sign-in/")
        return self.post("/sign-in/demo/", {"who": who}).status == 302

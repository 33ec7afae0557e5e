"""Hostile input at every address, form and kind of file: ./run fuzz [seconds] [--seed N].

On loopback, with a database of its own. Every input is made from its number and the seed, so what
broke can be made again. No answer may be a 500, none may take longer than five seconds, no process
of the server may grow over 400 MB. What once broke stands in tests/kyrtos/test_hostile.py.
"""

from __future__ import annotations

import argparse
import html
import io
import os
import random
import re
import tempfile
import threading
import time
import urllib.parse
import zipfile
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

from trials import standing
from trials.visitor import Answer, Visitor

MOST_S, MOST_MB = 5.0, 400
_THREADS = 3
_GONE = 200  # unanswered in a row: there is nobody left to try
_LOOK_EVERY = 200  # inputs between looks at the memory
# signs the fuzzer out, or asks of everybody what it cannot do itself
_LEFT_OUT = {"sign-out", "account_logout", "end-sessions", "account_login"}
_LEFT_OUT_FIELDS = {"second_step", "idle_minutes"}

# fmt: off
TEXTS = [
    "", " ", "\0", "a\0b", "0", "-1", "1e400", "-1e400", "nan", "inf", "1" * 400, "1/" + "9" * 400,
    "9" * 400 + "/7", "²", "٣", "½", "1e-400", "0x10", "1_000", "1,000.5", "1.000,5", "10 gpm",
    "10 m3/h at 5 m", "5'10\"", "90 elbow", "2 in", "−5 m", "5 m " * 200, "=1+1", "+1", "@x",
    "\t=1",
    "<script>alert(1)</script>", "\"><img src=x>", "'; drop table jobs_job; --", "../../etc/passwd",
    "{{7*7}}", "{% now %}", "%s%s%n", "é" * 300, "\ud7ff", "\U0001f6b0" * 50, "a" * 20_000, "[]",
    "{}", "null", "true", "[" * 990, '{"a":' * 300, "\r\nSet-Cookie: a=b", "‮abc", "none", "page-1",
    "11111111-2222-3333-4444-555555555555", "66666666-7777-8888-9999-aaaaaaaaaaaa",
    "10 l in 1e-308 s", "10 l in 24 s", "1e300 l in 1e-300 s", "a\r\nBcc: x@y", "x@y.example",
    "a\r\nEND:VCARD\r\nBEGIN:VCARD",
    "answers.rise", "answers.", "legs.0.length", "legs.99.length", "legs.x", "a.b.c.d.e", "take",
    "undo", "add", "metric", "us", "kPa", "bar", "psi", "°C", "1 °F", "1:2", "1-2-3", "12:61", "€5",
]
# fmt: on


# what addresses are asked with: the bench, the catalogue, the counter, somebody's sum
_ASKED = [
    "q",
    "page",
    "like",
    "kind",
    "family",
    "leg",
    "number",
    "flow",
    "head",
    "with",
    "by",
    "group",
    "model",
    "maker",
    "volts",
    "amps",
    "power",
    "lift",
    "length",
    "bore",
    "age",
    "outlet",
    "pump",
    "stands",
    "fittings",
    "nominal",
    "got_head",
    "got_shaft_power",
    "curve",
    "grade",
    "outlet",
    "fall",
    "rise",
    "watts",
    "devices",
    "instead",
    "customer",
    "site",
    "told",
]


class Seeds:
    """Good files, from which bad ones are made."""

    def __init__(self, visitor: Visitor, job: str) -> None:
        self.files: dict[str, bytes] = {
            "pumps.csv": visitor.get("/catalogue/pumps.csv").body,
            "pumps.xlsx": visitor.get("/catalogue/pumps.xlsx").body,
            "job.json": visitor.get(f"/jobs/{job}/job.json").body,
            "page.pdf": visitor.get("/site-sheet/sump.pdf").body,
            "picture.png": visitor.get(f"/jobs/{job}/paper/picture.png").body,
            "ground.gpx": (
                b'<gpx version="1.1"><trk><trkseg>'
                b'<trkpt lat="50.1" lon="-4.2"><ele>10</ele></trkpt>'
                b'<trkpt lat="50.2" lon="-4.2"><ele>14</ele></trkpt></trkseg></trk></gpx>'
            ),
            "ground.geojson": (
                b'{"type":"FeatureCollection","features":[{"type":"Feature","geometry":{"type":'
                b'"LineString","coordinates":[[0,50,10],[0.01,50,14]]},"properties":{}}]}'
            ),
            "customers.csv": visitor.get("/customers.csv").body[:20_000],
            "cards.vcf": visitor.get("/customers.vcf").body[:20_000],
            "installed.csv": visitor.get("/pumps.csv").body[:20_000],
            "ground.csv": b"0,10\n50,12\n100,18\n",
            "many.vcf": b"BEGIN:VCARD\r\nVERSION:3.0\r\nFN:a\0b\r\nTEL:1\r\nEND:VCARD\r\n" * 50,
            "blank.csv": b"name,phone\n" + b"\n" * 50_000,
            "weather.csv": b"Hour,GHI,DHI,T\n" + b"1,100,50,12\n" * 200,
            "log.csv": b"time,level\n" + b"".join(b"%d,0.5\n" % at for at in range(300)),
            "photo.jpg": b"\xff\xd8\xff\xe0\x00\x10JFIF" + b"\0" * 200,
            "page.html": b"<script src='/static/vendor/htmx/htmx.min.js'></script>",
            "lists.zip": _zip({"shop.json": b"[" + b"[]," * 400_000 + b"[]]"}),
            "deep.zip": _zip({"shop.json": b'{"a":' * 5000 + b"1" + b"}" * 5000}),
            "site.zip": _zip(
                {
                    "shop.json": b'{"format": "kyrtos-shop/1"}',
                    "customers.json": b'{"customers": [{"name": "A"}], "sites": [{"name": "B",'
                    b' "customer": 0, "files": [{"id": "x", "name": "x.html", "job": "",'
                    b' "media_type": "text/html", "is_photo": true, "size_bytes": 3}]}]}',
                    "files/x": b"<b>",
                }
            ),
            "shop.zip": _zip({"shop.json": b'{"format": "kyrtos-shop/1"}', "jobs/x.json": b"{}"}),
        }

    def bad(self, dice: random.Random) -> tuple[str, bytes]:
        """A file of some kind, spoilt in some way, under a name that may be another's."""
        name = dice.choice(list(self.files))
        content = self.files[name]
        for _ in range(dice.randint(0, 3)):
            content = spoilt(content, dice)
        if name.endswith((".xlsx", ".zip")) and dice.random() < 0.5:
            content = inside(self.files[name], dice)
        return dice.choice([name, name, dice.choice(list(self.files))]), content


def _zip(parts: dict[str, bytes]) -> bytes:
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as made:
        for name, content in parts.items():
            made.writestr(name, content)
    return stream.getvalue()


def inside(packed: bytes, dice: random.Random) -> bytes:
    """A packed file with one part of it spoilt, or blown up."""
    with zipfile.ZipFile(io.BytesIO(packed)) as held:
        parts = {name: held.read(name) for name in held.namelist()}
    name = dice.choice(list(parts))
    parts[name] = b"0" * 30_000_000 if dice.random() < 0.1 else spoilt(parts[name], dice)
    return _zip(parts)


def spoilt(content: bytes, dice: random.Random) -> bytes:
    """Bytes turned, cut, doubled, or a figure put in place of another."""
    how = dice.randrange(6)
    if not content or how == 0:
        return dice.randbytes(dice.randint(0, 300))
    at = dice.randrange(len(content))
    if how == 1:
        return content[:at]
    if how == 2:
        return content[:at] + dice.randbytes(dice.randint(1, 8)) + content[at + 1 :]
    if how == 3:
        return content[:at] + content[at : at + 2000] * dice.randint(2, 30) + content[at:]
    text = dice.choice(TEXTS).encode("utf-8", errors="replace")[:2000]
    figures = list(re.finditer(rb"[0-9][0-9.]*", content[:200_000]))
    if how == 4 and figures:
        found = dice.choice(figures)
        return content[: found.start()] + text + content[found.end() :]
    return content[:at] + text + content[at:]


_GAP = re.compile(r"<[^>]+>|\(\?P<\w+>[^()]*(?:\([^()]*\))?[^()]*\)")


def addresses(job: str) -> list[list[str]]:
    """Every pattern of an address, as its pieces: a text, or '' where something is to be put in."""
    import django

    django.setup()
    from django.urls import URLPattern, URLResolver, get_resolver

    def walk(patterns: list[URLPattern | URLResolver], before: str) -> Iterator[tuple[str, str]]:
        for one in patterns:
            whole = before + str(one.pattern).removeprefix("^").removesuffix("$")
            if isinstance(one, URLResolver):
                yield from walk(one.url_patterns, whole)
            else:
                yield one.name or "", whole

    found = []
    for name, pattern in walk(get_resolver().url_patterns, "/"):
        if name not in _LEFT_OUT:
            pattern = pattern.replace("<uuid:job_id>", job)
            found.append(_GAP.split(pattern))
    return found


class Fuzz:
    """The inputs, by their numbers, and what came of them."""

    def __init__(self, port: int, seed: int) -> None:
        self.port, self.seed = port, seed
        self.visitor = Visitor(port, patience_s=60)
        assert self.visitor.come_in("isolde")
        page = self.visitor.get("/").text
        self.jobs = re.findall(r"/jobs/([0-9a-f-]{36})/", page)
        self.pumps = re.findall(
            r'href="/catalogue/([a-z0-9-]+)/"', self.visitor.get("/catalogue/").text
        )
        self.codes = re.findall(r"/p/([A-Z0-9]{8})/", self.visitor.get("/pumps/").text)
        self.sites = re.findall(r'href="/sites/(\d+)/"', self.visitor.get("/pumps/").text)
        customers = self.visitor.get("/customers/").text
        self.customers = re.findall(r'href="/customers/(\d+)/"', customers)
        self.seeds = Seeds(self.visitor, self.jobs[0])
        self.addresses = addresses(self.jobs[0])
        self.forms: dict[str, list[tuple[str, str]]] = {}
        self.status: Counter[int] = Counter()
        self.bad: list[str] = []
        self.worst = (0.0, "")
        self.count = self.gone = 0
        self.lock = threading.Lock()

    def address(self, dice: random.Random) -> str:
        pieces = dice.choice(self.addresses)
        known = [
            *self.jobs[:5],
            *self.pumps[:20],
            *self.codes[:20],
            *self.sites[:20],
            *self.customers[:20],
            "1",
            "2",
            "csv",
            "svg",
            "undo",
            "add",
            "friction",
        ]
        made = pieces[0]
        for piece in pieces[1:]:
            put = dice.choice(known) if dice.random() < 0.7 else _quoted(dice.choice(TEXTS)[:3000])
            made += put + piece
        if dice.random() < 0.3:
            sent = {dice.choice(_ASKED): dice.choice(TEXTS)[:3000] for _ in range(3)}
            made += "?" + urllib.parse.urlencode(sent, errors="replace")
        return made

    def form(self, address: str, dice: random.Random) -> dict[str, str]:
        """The fields that the page there has, some of them spoilt; or what a worksheet sends."""
        plain = address.partition("?")[0]
        if plain not in self.forms and len(self.forms) < 500:
            self.forms[plain] = fields(self.visitor.get(plain))
        sent = dict(self.forms.get(plain) or [])
        worksheet = ("path", "value", "revision", "page", "leg", "text", "do", "at", "key", "name")
        for key in dice.sample(worksheet, 4):
            sent.setdefault(key, dice.choice(TEXTS))
        for key in dice.sample(sorted(sent), min(len(sent), dice.randint(1, 3))):
            sent[key] = dice.choice(TEXTS)
        return {key: text for key, text in sent.items() if key not in _LEFT_OUT_FIELDS}

    def one(self, number: int, visitor: Visitor) -> None:
        """Input number so and so."""
        dice = random.Random(self.seed * 1_000_000 + number)
        address, how = self.address(dice), dice.random()
        began = time.monotonic()
        if how < 0.35:
            told, answer = f"GET {address}", visitor.get(address)
        elif how < 0.4:
            method = dice.choice(["HEAD", "OPTIONS", "PUT", "DELETE", "TRACE", "X"])
            told, answer = f"{method} {address}", visitor.ask(method, address)
        elif how < 0.75:
            sent = self.form(address, dice)
            began = time.monotonic()
            told = f"POST {address} {sent!r:.300}"
            body = urllib.parse.urlencode(sent, errors="replace").encode()
            head = {"HX-Request": "true"} if dice.random() < 0.5 else {}
            answer = visitor.ask("POST", address, body, head=head)
        else:
            places = ("/catalogue/import/", "/catalogue/trace/", "/jobs/upload/", "/settings/shop/")
            survey = f"/jobs/{self.jobs[0]}/survey/"
            after = ("/customers/import/", "/pumps/import/", "/calculation-review/sheet/")
            photos = f"/sites/{dice.choice(self.sites)}/files/"
            of_job = [f"/jobs/{dice.choice(self.jobs)}/{one}/" for one in ("weather", "measured")]
            plate = f"/p/{dice.choice(self.codes)}/plate/"
            place = dice.choice(
                [*places, survey, survey, "/shop-file/", *after, photos, *of_job, plate]
            )
            name, content = self.seeds.bad(dice)
            told = f"POST {place} file {name} of {len(content)} bytes"
            more = {"leg": "leg-1", "place": "pump", "page": dice.choice(TEXTS)[:50]}
            began = time.monotonic()
            answer = visitor.send_file(place, name, content, more)
        self.note(number, told, answer, time.monotonic() - began)
        if answer.status in (401, 302) and "/sign-in/" in answer.head.get("Location", "/sign-in/"):
            visitor.come_in("isolde")

    def note(self, number: int, told: str, answer: Answer, took_s: float) -> None:
        """Keep what came of it."""
        with self.lock:
            self.count += 1
            self.status[answer.status] += 1
            self.gone = self.gone + 1 if answer.status == 0 else 0
            self.worst = max(self.worst, (took_s, f"{number}: {told:.200}"))
            if answer.status >= 500 or answer.status == 0:
                self.bad.append(f"{answer.status} {number}: {told:.400}")
            elif took_s > MOST_S:
                self.bad.append(f"{took_s:.1f} s {number}: {told:.400}")


def _quoted(text: str) -> str:
    return urllib.parse.quote(text, safe="", errors="replace")


def fields(page: Answer) -> list[tuple[str, str]]:
    """Names and values of what a page has for typing in."""
    found = []
    for tag in re.findall(r"<(?:input|select|textarea|button)\b[^>]*>", page.text):
        name = re.search(r'\bname="([^"]*)"', tag)
        value = re.search(r'\bvalue="([^"]*)"', tag)
        if name and 'type="file"' not in tag:
            found.append((html.unescape(name[1]), html.unescape(value[1]) if value else ""))
    return found


def main() -> None:
    """Run it, print what came of it; ends with 1 when anything broke."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("seconds", nargs="?", type=float, default=60)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--only", type=int, help="one input alone, by its number")
    given = parser.parse_args()
    port = standing.free_port()
    with tempfile.TemporaryDirectory(prefix="ky") as name:
        place = Path(name)
        place.chmod(0o755)
        env = standing.environment(place, os.environ["DATABASE_URL"])
        standing.collect(env)
        with standing.supervised(place, env, port) as keeper:
            fuzz = Fuzz(port, given.seed)
            most_mb = run(fuzz, keeper.pid, given.seconds, given.only)
            log = (place / "server.log").read_text(errors="replace")
    print(f"{fuzz.count} inputs, seed {given.seed}: {dict(sorted(fuzz.status.items()))}")
    print(f"slowest {fuzz.worst[0]:.1f} s, {fuzz.worst[1]}")
    print(f"largest process {most_mb} MB; broken: {len(fuzz.bad)}")
    for line in fuzz.bad[:40]:
        print(f"  {line}")
    if fuzz.bad:
        errors = Counter(re.findall(r"^(?:[a-z_]+\.)*[A-Z]\w*(?:Error|Exception)\b.*", log, re.M))
        for line, times in errors.most_common(20):
            print(f"  {times} times {line:.200}")
    raise SystemExit(bool(fuzz.bad or most_mb > MOST_MB))


def run(fuzz: Fuzz, keeper: int, seconds: float, only: int | None) -> int:
    """Send inputs until the time is over; the most memory that a process had, in MB."""
    if only is not None:
        fuzz.one(only, fuzz.visitor)
        return 0
    end, numbers, most = time.monotonic() + seconds, iter(range(10_000_000)), [0]

    def send() -> None:
        visitor = Visitor(fuzz.port, patience_s=60)
        visitor.come_in("isolde")
        while time.monotonic() < end and fuzz.gone < _GONE:
            with fuzz.lock:
                number = next(numbers)
            fuzz.one(number, visitor)
            if number % _LOOK_EVERY == 0:
                most[0] = max(most[0], standing.most_mb(keeper))

    threads = [threading.Thread(target=send) for _ in range(_THREADS)]
    for one in threads:
        one.start()
    for one in threads:
        one.join()
    return max(most[0], standing.most_mb(keeper))


if __name__ == "__main__":
    main()

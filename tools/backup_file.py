"""One file that holds the whole of Kyrtos: how it is written, and proved.

A tar of manifest.json, database.dump and files/..., with a line behind it that proves all of it.
The manifest holds the SHA-256 of every part, counts of all rows, and digests of revisions, papers
and files. Only Debian's own Python is needed.
"""

from __future__ import annotations

import hashlib
import io
import json
import os
import shutil
import subprocess
import tarfile
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path, PurePosixPath
from typing import IO, Any

FORMAT = "kyrtos-backup/1"
TRAILER = f"\n{FORMAT} sha256=%s\n"
TRAILER_BYTES = len(TRAILER % ("0" * 64))
NOT_WHOLE = 3
CHUNK = 1 << 20
ROOT = Path(__file__).resolve().parent.parent
DIGESTED = ("jobs_revision", "paper_paper", "customers_sitefile")
SETTINGS = (
    "set timezone = 'UTC'; set bytea_output = hex; set extra_float_digits = 1; set datestyle = iso;"
)
COUNTS = """select coalesce(json_object_agg(tablename, n order by tablename), '{}') from (
 select tablename, (xpath('/row/n/text()', query_to_xml(
   format('select count(*) as n from %I.%I', schemaname, tablename), false, true, ''
 )))[1]::text::bigint as n from pg_tables where schemaname = 'public') t;"""
DIGEST = """select encode(sha256(convert_to(
 coalesce(string_agg(md5(t::text), '' order by id), ''), 'UTF8')), 'hex') from {table} t;"""


class Stopped(Exception):
    """What goes wrong, as a sentence for whoever called."""


def address() -> str:
    found = os.environ.get("DATABASE_URL", "")
    if not found:
        raise Stopped("set DATABASE_URL; see docs/deploy.md")
    return found


def files_folder() -> Path | None:
    """Where photos and files lie; None where a store keeps them and itself."""
    if os.environ.get("KYRTOS_FILES_BUCKET"):
        return None
    return Path(os.environ.get("KYRTOS_FILES") or ROOT / "files")


def needs(program: str, package: str) -> None:
    if shutil.which(program) is None:
        raise Stopped(f"there is no {program} here: apt-get install {package}")


# --- asking the database


class Session:
    """psql on one connection, so that all is asked of one moment."""

    def __init__(self, database: str) -> None:
        needs("psql", "postgresql-client")
        command = ["psql", "-X", "-q", "-A", "-t", "-v", "ON_ERROR_STOP=1", "-d", database]
        self.psql = subprocess.Popen(
            command,
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            text=True,
        )
        self.ask(SETTINGS)

    def ask(self, query: str) -> str:
        """What a query answers, as text."""
        assert self.psql.stdin and self.psql.stdout and self.psql.stderr
        with suppress(BrokenPipeError):
            self.psql.stdin.write(f"{query}\n\\echo __end__\n")
            self.psql.stdin.flush()
        lines = []
        for line in self.psql.stdout:
            if line == "__end__\n":
                return "".join(lines).strip()
            lines.append(line)
        raise Stopped(f"the database: {self.psql.stderr.read().strip() or 'no answer'}")

    def close(self) -> None:
        with suppress(BrokenPipeError, OSError):
            self.psql.communicate("\\q\n", timeout=10)


@contextmanager
def session(database: str) -> Iterator[Session]:
    found = Session(database)
    try:
        yield found
    finally:
        found.close()


def told_by(held: Session) -> dict[str, Any]:
    """Counts of all rows, and digests of what must not change."""
    counts = json.loads(held.ask(COUNTS))
    digests = {one: held.ask(DIGEST.format(table=one)) for one in DIGESTED if one in counts}
    return {"counts": counts, "digests": digests}


# --- out


def hashed(path: Path) -> str:
    with path.open("rb") as held:
        return hashlib.file_digest(held, "sha256").hexdigest()


def parts_of(folder: Path | None) -> dict[str, Path]:
    if folder is None or not folder.is_dir():
        return {}
    found = sorted(one for one in folder.rglob("*") if one.is_file() and not one.is_symlink())
    return {f"files/{one.relative_to(folder).as_posix()}": one for one in found}


def manifest_bytes(content: dict[str, Any]) -> bytes:
    """The manifest as JSON, with its own SHA-256 as the last line."""
    text = json.dumps(content, indent=1, sort_keys=True).encode()
    return text + b"\n" + hashlib.sha256(text).hexdigest().encode() + b"\n"


class Written(io.RawIOBase):
    """Writes on, and digests what it wrote."""

    def __init__(self, to: IO[bytes]) -> None:
        self.to, self.digest, self.at = to, hashlib.sha256(), 0

    def writable(self) -> bool:
        return True

    def write(self, data: bytes) -> int:
        self.to.write(data)
        self.digest.update(data)
        self.at += len(data)
        return len(data)

    def tell(self) -> int:
        return self.at


def pack(out: IO[bytes], key: str, content: dict[str, Any], parts: dict[str, Path]) -> None:
    """Write manifest and parts as a tar with its proof behind it; encrypted by a key."""
    age = None
    if key:
        age = subprocess.Popen(["age", "--recipient", key], stdin=subprocess.PIPE, stdout=out)
        assert age.stdin
    written = Written(age.stdin if age else out)
    with tarfile.open(fileobj=written, mode="w|", format=tarfile.PAX_FORMAT) as tar:
        text = manifest_bytes(content)
        head = tarfile.TarInfo("manifest.json")
        head.size = len(text)
        tar.addfile(head, io.BytesIO(text))
        for name, one in parts.items():
            tar.add(one, arcname=name, recursive=False)
    proof = (TRAILER % written.digest.hexdigest()).encode()
    written.to.write(proof)
    if age:
        assert age.stdin
        age.stdin.close()
        if age.wait():
            raise Stopped("age could not encrypt it: is KYRTOS_BACKUP_KEY a recipient (age1...)?")


# --- in


class Body(io.RawIOBase):
    """All of a stream but the proof behind it, digested as it is read."""

    def __init__(self, source: IO[bytes]) -> None:
        self.source, self.held, self.ended = source, b"", False
        self.digest = hashlib.sha256()

    def readable(self) -> bool:
        return True

    def read(self, size: int = -1) -> bytes:
        wanted = CHUNK if size < 0 else size
        while len(self.held) < wanted + TRAILER_BYTES and not self.ended:
            more = self.source.read(CHUNK)
            self.ended = not more
            self.held += more
        ready = max(0, min(wanted, len(self.held) - TRAILER_BYTES))
        out, self.held = self.held[:ready], self.held[ready:]
        self.digest.update(out)
        return out

    def proves(self) -> bool:
        """Whether the line behind it is the one that belongs to it; reads what is left."""
        while self.read(CHUNK):
            pass
        return self.held == (TRAILER % self.digest.hexdigest()).encode()


@contextmanager
def opened(file: Path) -> Iterator[IO[bytes]]:
    """The bytes of a back-up, decrypted where it is encrypted."""
    with file.open("rb") as plain:
        if plain.read(3) != b"age":
            plain.seek(0)
            yield plain
            return
    needs("age", "age")
    secret = os.environ.get("KYRTOS_BACKUP_SECRET", "")
    if not secret:
        raise Stopped(f"{file} is encrypted: name its identity file in KYRTOS_BACKUP_SECRET.")
    age = subprocess.Popen(
        ["age", "--decrypt", "--identity", secret, str(file)],
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
    )
    assert age.stdout and age.stderr
    try:
        yield age.stdout
        if age.stdout.read(1):
            return  # left early: the caller had enough
        if age.wait():
            said = age.stderr.read().decode().strip()
            raise Stopped(f"{file} cannot be decrypted: damaged, or of another key. {said}")
    finally:
        age.kill()
        age.wait()
        age.stdout.close()
        age.stderr.close()


def read_manifest(held: tarfile.TarFile) -> dict[str, Any]:
    head = held.next()
    if head is None or head.name != "manifest.json":
        raise Stopped("it does not begin with a manifest: damaged, or no back-up of Kyrtos")
    text = held.extractfile(head).read()
    content, _, proof = text.rstrip(b"\n").rpartition(b"\n")
    if hashlib.sha256(content).hexdigest().encode() != proof:
        raise Stopped("its manifest is damaged")
    found = json.loads(content)
    if found["format"] != FORMAT:
        raise Stopped(f"it is of another format than {FORMAT}")
    return dict(found)


def safe(name: str) -> bool:
    path = PurePosixPath(name)
    return name == "database.dump" or (
        len(path.parts) > 1 and path.parts[0] == "files" and ".." not in path.parts
    )


def proved(file: Path) -> dict[str, Any]:
    """The manifest of a back-up of which every byte is what it was; raises with what is broken."""
    broken: list[str] = []
    with opened(file) as raw:
        body = Body(raw)
        try:
            with tarfile.open(fileobj=body, mode="r|") as held:
                content = read_manifest(held)
                left = dict(content["parts"])
                while one := held.next():
                    said = left.pop(one.name, None)
                    stream = held.extractfile(one) if one.isfile() and safe(one.name) else None
                    if said is None or stream is None:
                        broken.append(f"{one.name} does not belong to it")
                        continue
                    found = hashlib.file_digest(stream, "sha256").hexdigest()
                    if found != said["sha256"]:
                        broken.append(f"{one.name} is damaged")
                broken += [f"{name} is missing" for name in left]
        except (
            tarfile.TarError,
            EOFError,
            OSError,
            UnicodeDecodeError,
            KeyError,
            ValueError,
        ) as problem:
            said = str(problem) or type(problem).__name__
            raise Stopped(f"{file} is damaged or cut off ({said}); nothing was touched.") from None
        except Stopped as problem:
            raise Stopped(f"{file}: {problem}; nothing was touched.") from None
        if not body.proves():
            broken = broken or ["it is cut off, or something was changed in it"]
    if broken:
        raise Stopped(f"{file}: {', '.join(broken[:5])}; nothing was touched.")
    return content

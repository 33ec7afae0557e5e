"""The whole of Kyrtos as one file, proved whole, and back.

    tools/backup save FILE      one moment of the database, and the photos and files of sites
    tools/backup check FILE     whether every part is what the manifest says; nothing is touched
    tools/backup restore FILE   into an empty database and folder; refused where anything is there
    tools/backup swap FILE      restored beside what is there, which gives way only when it is whole

DATABASE_URL names the database, KYRTOS_FILES the folder (else files/ of the program; with
KYRTOS_FILES_BUCKET the store keeps itself). With KYRTOS_BACKUP_KEY (an age recipient) the file is
encrypted; KYRTOS_BACKUP_SECRET (a file with the age identity) opens it. A back-up of before there
were manifests is restored with --unproved.

FILE is a tar of manifest.json, database.dump and files/..., with a line behind it that proves all
of it. The manifest holds the SHA-256 of every part, counts of all rows, and digests of revisions,
papers and files. Only Debian's own Python is needed.
"""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tarfile
import tempfile
import time
from contextlib import suppress
from datetime import UTC, datetime
from pathlib import Path, PurePosixPath
from typing import IO, Any
from urllib.parse import urlsplit, urlunsplit

from tools.backup_file import (
    CHUNK,
    FORMAT,
    Body,
    Stopped,
    address,
    files_folder,
    hashed,
    needs,
    opened,
    pack,
    parts_of,
    proved,
    read_manifest,
    session,
    told_by,
)

NOT_WHOLE = 3
EMPTY = "set client_min_messages = error; drop schema public cascade; create schema public;"


def save(file: Path) -> int:
    if file.exists():
        raise Stopped(f"{file} is there already: name another, a back-up is never written over.")
    key, folder = os.environ.get("KYRTOS_BACKUP_KEY", ""), files_folder()
    needs("pg_dump", "postgresql-client")
    if key:
        needs("age", "age")
    part = file.with_name(file.name + ".part")
    work = Path(tempfile.mkdtemp(prefix=".kyrtos-backup-", dir=file.parent))
    try:
        content, missing = taken(work / "database.dump", folder)
        with part.open("wb") as out:
            pack(out, key, content, {"database.dump": work / "database.dump", **parts_of(folder)})
            out.flush()
            os.fsync(out.fileno())
        if not key:
            proved(part)
        part.rename(file)
    finally:
        shutil.rmtree(work, ignore_errors=True)
        part.unlink(missing_ok=True)
    rows = sum(content["counts"].values())
    count, size = len(content["parts"]) - 1, file.stat().st_size / 1e6
    how = ", encrypted" if key else ""
    told = f"{file}: {size:.1f} MB, {rows} rows, {count} photos and files{how}"
    if folder is None:
        print(f"{told}. Photos and files lie in a store of their own: back that up too.")
    elif missing:
        lacks = f"{missing} photos and files that the database names are not in {folder}"
        print(f"{told}. NOT WHOLE: {lacks}.")
        return NOT_WHOLE
    else:
        print(told)
    return 0


def taken(dump: Path, folder: Path | None) -> tuple[dict[str, Any], int]:
    """One moment of the database as a file, what the manifest says, and how many files lack."""
    with session(address()) as held:
        moment = held.ask("begin isolation level repeatable read; select pg_export_snapshot();")
        done = subprocess.run(
            [
                "pg_dump",
                "--format=custom",
                "--no-owner",
                "--no-privileges",
                f"--snapshot={moment}",
                "--file",
                str(dump),
                "--dbname",
                address(),
            ],
            stderr=subprocess.PIPE,
            text=True,
        )
        if done.returncode:
            raise Stopped(f"the database could not be written: {done.stderr.strip()}")
        told = told_by(held)
        named = []
        if "customers_sitefile" in told["counts"]:
            named = held.ask("select stored from customers_sitefile order by 1;").splitlines()
    parts = {"database.dump": dump, **parts_of(folder)}
    listed = {
        name: {"sha256": hashed(one), "bytes": one.stat().st_size} for name, one in parts.items()
    }
    missing = 0 if folder is None else sum(f"files/{one}" not in listed for one in named)
    made = datetime.now(UTC).isoformat(timespec="seconds")
    where = "in a store of their own" if folder is None else "here"
    return {
        "format": FORMAT,
        "made": made,
        "files": where,
        "missing": missing,
        "parts": listed,
        **told,
    }, missing


def restore(file: Path, *, database: str, folder: Path | None, unproved: bool = False) -> str:
    """Put a back-up into an empty database and folder, and compare it; says what came."""
    if not file.is_file() or not os.access(file, os.R_OK):
        raise Stopped(f"there is no file {file} to be read.")
    with opened(file) as raw:
        old = raw.read(5) == b"PGDMP"
    content = {} if old else proved(file)  # before the database is asked anything
    with session(database) as held:
        if held.ask("select count(*) from pg_tables where schemaname = 'public';") != "0":
            raise Stopped(
                "this database is not empty: restore into a new one, nothing was touched."
            )
    if old:
        return restore_old(file, database, folder, unproved)
    names = [one for one in content["parts"] if one.startswith("files/")]
    if names and folder is None:
        raise Stopped(f"{file} holds photos and files: restore with KYRTOS_FILES_BUCKET unset.")
    if names and folder and folder.is_dir() and any(folder.iterdir()):
        raise Stopped(
            f"the folder {folder} is not empty: name another in KYRTOS_FILES, nothing was touched."
        )
    coming = None
    try:
        if names and folder:
            folder.parent.mkdir(parents=True, exist_ok=True)
            coming = Path(tempfile.mkdtemp(prefix=".coming-", dir=folder.parent))
        with opened(file) as raw, tarfile.open(fileobj=Body(raw), mode="r|") as tar:
            read_manifest(tar)
            while one := tar.next():
                put(tar, one, database, coming)
        compare(database, content)
        if coming and folder:
            if folder.is_dir():
                folder.rmdir()
            (coming / "files").rename(folder)
    except BaseException:
        with session(database) as held:
            held.ask(
                "set client_min_messages = error; drop schema public cascade; create schema public;"
            )
        raise
    finally:
        if coming:
            shutil.rmtree(coming, ignore_errors=True)
    rows = sum(content["counts"].values())
    told = f"restored and compared: {rows} rows, {len(names)} photos and files"
    if content["missing"]:
        told += f"; {content['missing']} more were missing when it was made"
    return told


def unpack(tar: tarfile.TarFile, one: tarfile.TarInfo, to: Path) -> None:
    """Write one plain file of a tar; anything else, or out of the folder, is passed over."""
    stream = tar.extractfile(one) if one.isfile() else None
    path = PurePosixPath(one.name)
    if stream is None or path.is_absolute() or ".." in path.parts:
        return
    target = to / path
    target.parent.mkdir(parents=True, exist_ok=True)
    with target.open("wb") as out:
        shutil.copyfileobj(stream, out, CHUNK)


def put(tar: tarfile.TarFile, one: tarfile.TarInfo, database: str, coming: Path | None) -> None:
    if one.name != "database.dump":
        if coming:
            unpack(tar, one, coming)
        return
    stream = tar.extractfile(one)
    assert stream
    pour(stream, database)


def pour(dump: IO[bytes], database: str) -> None:
    """Put a dump into a database, whole or not at all."""
    needs("pg_restore", "postgresql-client")
    command = [
        "pg_restore",
        "--exit-on-error",
        "--single-transaction",
        "--no-owner",
        "--no-privileges",
    ]
    into = subprocess.Popen(
        [*command, "--dbname", database], stdin=subprocess.PIPE, stderr=subprocess.PIPE
    )
    assert into.stdin and into.stderr
    with suppress(BrokenPipeError):
        shutil.copyfileobj(dump, into.stdin, CHUNK)
        into.stdin.close()
    said = into.stderr.read().decode(errors="replace").strip()
    if into.wait():
        raise Stopped(f"it could not be restored; the database is as empty as before. {said}")


def compare(database: str, content: dict[str, Any]) -> None:
    """Raise where the database that was restored is not what the manifest says."""
    with session(database) as held:
        now = told_by(held)
    for what in ("counts", "digests"):
        said, found = content[what], now[what]
        wrong = [one for one in {**said, **found} if said.get(one) != found.get(one)]
        if wrong:
            told = f"{what} of {', '.join(wrong[:5])}"
            raise Stopped(
                f"what was restored differs from the manifest ({told}); it was emptied again."
            )


def restore_old(file: Path, database: str, folder: Path | None, unproved: bool) -> str:
    """A back-up of before there were manifests: FILE, and FILE.files beside it."""
    if not unproved:
        raise Stopped(
            f"{file} is of before there were manifests: nothing proves it whole. With --unproved"
            " it is restored."
        )
    beside = file.with_name(file.name + ".files")
    if beside.is_file() and folder is None:
        raise Stopped(
            f"there are photos and files in {beside}: name the folder for them in KYRTOS_FILES;"
            " nothing was touched."
        )
    with opened(file) as raw:
        pour(raw, database)
    if beside.is_file() and folder:
        folder.mkdir(parents=True, exist_ok=True)
        with opened(beside) as raw, tarfile.open(fileobj=raw, mode="r|") as tar:
            while one := tar.next():
                unpack(tar, one, folder)
    return "restored; nothing proves that it is whole"


# --- beside, then in its place


def named(database: str, name: str) -> str:
    """The address of another database of the same server."""
    return urlunsplit(urlsplit(database)._replace(path=f"/{name}"))


def swap(file: Path, *, unproved: bool = False) -> str:
    """Restore beside what is there, and let that give way only when the new one is whole."""
    here, folder = address(), files_folder()
    name = urlsplit(here).path.lstrip("/")
    moment = datetime.now(UTC).strftime("%Y%m%d_%H%M%S")
    coming, before = f"{name}_back_{moment}", f"{name}_before_{moment}"
    beside = folder and folder.with_name(f"{folder.name}.back-{moment}")
    aside = folder and folder.with_name(f"{folder.name}.before-{moment}")
    with session(named(here, "postgres")) as server:
        server.ask(f'create database "{coming}" template template0;')
    try:
        told = restore(file, database=named(here, coming), folder=beside, unproved=unproved)
    except BaseException:
        with session(named(here, "postgres")) as server:
            server.ask(f'drop database "{coming}" with (force);')
        if beside:
            shutil.rmtree(beside, ignore_errors=True)
        raise
    rename(here, (name, before), (coming, name))
    try:
        moved(folder, beside, aside)
    except OSError as problem:
        rename(here, (name, coming), (before, name))
        raise Stopped(
            f"the folder {folder} could not be exchanged ({problem}); all is as it was."
        ) from None
    kept = f"database {before}" + (f" and folder {aside}" if aside and aside.exists() else "")
    return f"{told}. What was there is kept as {kept}: drop that when all is well."


def rename(here: str, *pairs: tuple[str, str]) -> None:
    """Exchange names of databases, all or none."""
    orders = " ".join(f'alter database "{old}" rename to "{new}";' for old, new in pairs)
    for left in range(20, -1, -1):  # a connection that was closed a moment ago may still be ending
        try:
            with session(named(here, "postgres")) as server:
                server.ask(f"begin; {orders} commit;")
            return
        except Stopped:
            if not left:
                raise
            time.sleep(0.25)


def moved(folder: Path | None, beside: Path | None, aside: Path | None) -> None:
    if not (folder and beside and aside):
        return
    if folder.exists():
        folder.rename(aside)
    if beside.exists():
        try:
            beside.rename(folder)
        except OSError:
            aside.rename(folder)
            raise


def main(words: list[str]) -> int:
    unproved = "--unproved" in words
    plain = [one for one in words if one != "--unproved"]
    if len(plain) != 2 or plain[0] not in ("save", "check", "restore", "swap"):
        raise Stopped("tools/backup save FILE, check FILE, restore FILE, or swap FILE.")
    what, file = plain[0], Path(plain[1]).absolute()
    if what == "save":
        return save(file)
    if what == "check":
        content = proved(file)
        print(f"{file}: whole, {len(content['parts'])} parts, made {content['made']}")
    elif what == "restore":
        print(
            restore(file, database=address(), folder=files_folder(), unproved=unproved)
            + ". Start Kyrtos on it as before."
        )
    else:
        print(swap(file, unproved=unproved))
    return 0


if __name__ == "__main__":
    os.umask(0o077)  # a back-up holds everything
    try:
        sys.exit(main(sys.argv[1:]))
    except Stopped as problem:
        print(f"Stopped: {problem}", file=sys.stderr)
        sys.exit(1)

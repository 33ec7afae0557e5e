"""The whole shop as one file, and back into an empty database, to the last row and byte."""

import hashlib
import os
import subprocess
from pathlib import Path

import psycopg
import pytest
from django.db import connection

from kyrtos.jobs.models import Job
from kyrtos.paper.services import issue
from kyrtos.shops.models import Shop
from tests.snapshot import demo_shop

TOOL = Path(__file__).parents[2] / "tools" / "backup"
pytestmark = pytest.mark.django_db(transaction=True)


def address(name: str) -> str:
    held = connection.settings_dict
    place = f"{held['HOST']}:{held['PORT']}/{name}"
    return f"postgresql://{held['USER']}:{held['PASSWORD']}@{place}"


def run(what: str, file: Path, database: str, **more: str) -> subprocess.CompletedProcess:
    env = os.environ | {"DATABASE_URL": address(database)} | more
    return subprocess.run(
        [TOOL, what, file], env=env, capture_output=True, text=True, check=False, timeout=120
    )


def contents(name: str) -> dict[str, str]:
    """Every row of every table, told by its digest."""
    with psycopg.connect(address(name)) as held:
        tables = held.execute("select tablename from pg_tables where schemaname = 'public'")
        found = {}
        for (table,) in tables.fetchall():
            rows = held.execute(f'select t::text from "{table}" t order by 1').fetchall()
            found[table] = hashlib.sha256(repr(rows).encode()).hexdigest()
        return found


@pytest.fixture
def here() -> str:
    return str(connection.settings_dict["NAME"])


@pytest.fixture
def empty(here):
    name = f"{here}_back"
    with psycopg.connect(address(here), autocommit=True) as server:
        server.execute(f'drop database if exists "{name}"')
        server.execute(f'create database "{name}"')
        yield name
        server.execute(f'drop database "{name}" with (force)')


@pytest.fixture
def paper():
    shop = Shop.objects.first() or demo_shop()
    job = Job.objects.get(shop=shop, title="Bookbinder's cellar")
    return bytes(issue(job=job, user=shop.memberships.get(role="estimator").user).pdf)


def test_what_was_saved_comes_back_to_the_last_row_and_byte(paper, here, empty, tmp_path):
    file = tmp_path / "shop.kyrtos"
    done = run("save", file, here)
    assert done.returncode == 0, done.stderr
    assert "rows" in done.stdout
    again = run("save", file, here)
    assert again.returncode == 1
    assert "never written over" in again.stderr
    done = run("restore", file, empty)
    assert done.returncode == 0, done.stderr
    assert contents(empty) == contents(here)
    with psycopg.connect(address(empty)) as back:
        (pdf,) = back.execute("select pdf from paper_paper").fetchone()
    assert bytes(pdf) == paper
    refused = run("restore", file, empty)  # where something is, nothing is touched
    assert refused.returncode == 1
    assert "not empty" in refused.stderr


def test_photos_and_files_lie_beside_it_and_come_back(paper, here, empty, tmp_path):
    files, back = tmp_path / "files", tmp_path / "back"
    (files / "shop-1").mkdir(parents=True)
    (files / "shop-1" / "a.jpg").write_bytes(b"photo")
    file = tmp_path / "shop.kyrtos"
    assert run("save", file, here, KYRTOS_FILES=str(files)).returncode == 0
    lost = run("restore", file, empty, KYRTOS_FILES="")
    assert lost.returncode != 0
    assert "KYRTOS_FILES" in lost.stderr
    assert contents(empty) == {}  # told before anything is done
    done = run("restore", file, empty, KYRTOS_FILES=str(back))
    assert done.returncode == 0, done.stderr
    assert (back / "shop-1" / "a.jpg").read_bytes() == b"photo"


def test_an_encrypted_one_is_opened_by_its_key_alone(paper, here, empty, tmp_path):
    secret, file = tmp_path / "key", tmp_path / "shop.kyrtos"
    subprocess.run(["age-keygen", "-o", secret], check=True, capture_output=True)
    public = subprocess.run(
        ["age-keygen", "-y", secret], check=True, capture_output=True, text=True
    )
    done = run("save", file, here, KYRTOS_BACKUP_KEY=public.stdout.strip())
    assert done.returncode == 0, done.stderr
    assert b"Bookbinder" not in file.read_bytes()
    other = tmp_path / "other"
    subprocess.run(["age-keygen", "-o", other], check=True, capture_output=True)
    for wrong in ({}, {"KYRTOS_BACKUP_SECRET": str(other)}):
        assert run("restore", file, empty, **wrong).returncode != 0
        assert contents(empty) == {}
    done = run("restore", file, empty, KYRTOS_BACKUP_SECRET=str(secret))
    assert done.returncode == 0, done.stderr
    assert contents(empty) == contents(here)


def test_a_damaged_file_leaves_the_database_empty(paper, here, empty, tmp_path):
    file, cut = tmp_path / "shop.kyrtos", tmp_path / "cut.kyrtos"
    run("save", file, here)
    cut.write_bytes(file.read_bytes()[: file.stat().st_size * 2 // 3])
    done = run("restore", cut, empty)
    assert done.returncode != 0
    assert "could not be restored" in done.stderr
    assert contents(empty) == {}
    assert run("restore", tmp_path / "nothing", empty).returncode == 1


def test_a_database_that_does_not_answer_leaves_no_file(tmp_path):
    file = tmp_path / "shop.kyrtos"
    assert run("save", file, "no_such_database").returncode != 0
    assert list(tmp_path.iterdir()) == []

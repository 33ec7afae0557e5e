"""The whole shop as one file, and back into an empty database, to the last row and byte."""

import hashlib
import os
import random
import shutil
import subprocess
import tarfile
from pathlib import Path

import psycopg
import pytest
from django.db import connection

from kyrtos.accounts.models import User
from kyrtos.customers.models import Site, SiteFile
from kyrtos.jobs.models import Job
from kyrtos.operations import backups
from kyrtos.paper.services import issue
from kyrtos.shops.models import Shop
from tests.snapshot import demo_shop
from tests.thin import some
from tools import backing_up as tool
from tools import backup_file

TOOL = Path(__file__).parents[2] / "tools" / "backup"
pytestmark = pytest.mark.django_db(transaction=True)


def address(name: str) -> str:
    held = connection.settings_dict
    place = f"{held['HOST']}:{held['PORT']}/{name}"
    return f"postgresql://{held['USER']}:{held['PASSWORD']}@{place}"


def run(what: str, file: Path, database: str, **more: str) -> subprocess.CompletedProcess:
    nowhere = str(file.parent / "no-files")
    env = os.environ | {"DATABASE_URL": address(database), "KYRTOS_FILES": nowhere} | more
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


def put_photos(files: Path, count: int = 3) -> None:
    """Photos of a site, in the database and in the folder."""
    site, user = Site.objects.first(), User.objects.get(username="wenna")
    (files / "shop-1").mkdir(parents=True)
    for at in range(count):
        (files / "shop-1" / f"{at}.jpg").write_bytes(b"photo %d" % at * 500)
        SiteFile.objects.create(
            site=site,
            user=user,
            name=f"{at}.jpg",
            stored=f"shop-1/{at}.jpg",
            media_type="image/jpeg",
            is_photo=True,
            size_bytes=1,
        )


def test_photos_and_files_are_in_it_and_come_back(paper, here, empty, tmp_path):
    files, back = tmp_path / "files", tmp_path / "back"
    put_photos(files)
    file = tmp_path / "shop.kyrtos"
    done = run("save", file, here, KYRTOS_FILES=str(files))
    assert done.returncode == 0, done.stderr
    assert "3 photos and files" in done.stdout
    full = run("restore", file, empty, KYRTOS_FILES=str(files))
    assert full.returncode == 1
    assert "is not empty" in full.stderr
    assert contents(empty) == {}  # told before anything is done
    done = run("restore", file, empty, KYRTOS_FILES=str(back))
    assert done.returncode == 0, done.stderr
    assert "restored and compared" in done.stdout
    assert (back / "shop-1" / "2.jpg").read_bytes() == b"photo 2" * 500
    assert sorted(one.name for one in tmp_path.iterdir()) == ["back", "files", "shop.kyrtos"]


def test_without_any_variable_the_folder_of_the_program_is_meant():
    assert tool.files_folder() == Path(tool.__file__).parents[1] / "files"


def test_one_that_lacks_photos_is_not_called_whole(paper, here, tmp_path, settings):
    files = tmp_path / "files"
    put_photos(files)
    (files / "shop-1" / "1.jpg").unlink()
    done = run("save", tmp_path / "shop.kyrtos", here, KYRTOS_FILES=str(files))
    assert done.returncode == 3
    assert "NOT WHOLE: 1 photos and files" in done.stdout
    settings.BACKUP_FOLDER, settings.MEDIA_ROOT = str(tmp_path / "kept"), str(files)
    settings.DATABASE_ADDRESS = address(here)
    noted = backups.make()
    assert not noted.good
    assert "NOT WHOLE" in noted.told


def test_a_store_of_its_own_is_told(paper, here, tmp_path):
    done = run("save", tmp_path / "shop.kyrtos", here, KYRTOS_FILES_BUCKET="photos")
    assert done.returncode == 0
    assert "a store of their own" in done.stdout


def test_a_hundred_damages_are_all_refused_and_touch_nothing(paper, here, tmp_path):
    """Single bits anywhere, from a seed, and files that end too early."""
    files = tmp_path / "files"
    put_photos(files)
    file, spoilt = tmp_path / "shop.kyrtos", tmp_path / "spoilt.kyrtos"
    assert run("save", file, here, KYRTOS_FILES=str(files)).returncode == 0
    whole, draw = file.read_bytes(), random.Random(21)
    assert tool.proved(file)["missing"] == 0
    for at in range(100):
        if at % 4 == 3:
            content = whole[: draw.randrange(len(whole))]
        else:
            place = draw.choice((draw.randrange(len(whole)), draw.randrange(3000), -1 - at))
            held = bytearray(whole)
            held[place] ^= 1 << draw.randrange(8)
            content = bytes(held)
        spoilt.write_bytes(content)
        with pytest.raises(tool.Stopped, match=r"nothing was touched|encrypted|before there were"):
            tool.restore(spoilt, database=address(here + "_none"), folder=None)


def repacked(file: Path, to: Path, change) -> None:
    """A back-up whose parts somebody changed, with a proof that fits again."""
    parts: dict[str, bytes] = {}
    with tool.opened(file) as raw, tarfile.open(fileobj=backup_file.Body(raw), mode="r|") as held:
        content = tool.read_manifest(held)
        while one := held.next():
            parts[one.name] = held.extractfile(one).read()
    change(content, parts)
    work = to.with_name("parts")
    shutil.rmtree(work, ignore_errors=True)
    for name, data in parts.items():
        (work / name).parent.mkdir(parents=True, exist_ok=True)
        (work / name).write_bytes(data)
    with to.open("wb") as out:
        backup_file.pack(out, "", content, {name: work / name for name in parts})


@pytest.mark.parametrize(
    ("change", "says"),
    some(
        [
            (
                lambda content, parts: parts.pop("files/shop-1/1.jpg"),
                "files/shop-1/1.jpg is missing",
            ),
            (
                lambda content, parts: parts.update({"files/shop-1/1.jpg": b"x"}),
                "files/shop-1/1.jpg is damaged",
            ),
            (
                lambda content, parts: parts.update({"files/../../evil": b"x"}),
                "evil does not belong to it",
            ),
            (lambda content, parts: content["counts"].update(jobs_job=99), "counts of jobs_job"),
            (lambda content, parts: content["digests"].update(paper_paper="0"), "digests of paper"),
        ],
        2,
        "broken",
    ),
)
def test_what_is_broken_is_named_and_the_database_stays_empty(
    paper, here, empty, tmp_path, change, says
):
    files, file, other = tmp_path / "files", tmp_path / "shop.kyrtos", tmp_path / "other.kyrtos"
    put_photos(files)
    run("save", file, here, KYRTOS_FILES=str(files))
    repacked(file, other, change)
    done = run("restore", other, empty, KYRTOS_FILES=str(tmp_path / "back"))
    assert done.returncode == 1
    assert says in done.stderr
    assert contents(empty) == {}
    assert not (tmp_path / "back").exists()


@pytest.mark.nightly
def test_one_of_before_there_were_manifests_comes_back_when_asked_for(paper, here, empty, tmp_path):
    file = tmp_path / "old.kyrtos"
    subprocess.run(
        ["pg_dump", "--format=custom", "--no-owner", "--file", file, "--dbname", address(here)],
        check=True,
    )
    refused = run("restore", file, empty)
    assert "nothing proves it whole" in refused.stderr
    assert contents(empty) == {}
    env = os.environ | {"DATABASE_URL": address(empty), "KYRTOS_FILES": str(tmp_path / "f")}
    subprocess.run([TOOL, "restore", file, "--unproved"], env=env, check=True, capture_output=True)
    assert contents(empty) == contents(here)


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
    assert "nothing was touched" in done.stderr
    assert contents(empty) == {}
    assert run("restore", tmp_path / "nothing", empty).returncode == 1


def test_a_database_that_does_not_answer_leaves_no_file(tmp_path):
    file = tmp_path / "shop.kyrtos"
    assert run("save", file, "no_such_database").returncode != 0
    assert list(tmp_path.iterdir()) == []

"""Another server and port: a back-up restored, an upgrade and back, a replica promoted."""

import os
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

import psycopg
import pytest

from kyrtos.jobs.models import Job
from tests.kyrtos import test_backup
from tests.kyrtos.test_backup import contents, run
from trials import standing

ROOT = Path(__file__).parents[2]
here, paper = test_backup.here, test_backup.paper
pytestmark = pytest.mark.django_db(transaction=True)


def tool(name: str, *words: str, **more: str) -> subprocess.CompletedProcess:
    """One of our tools, which says by its end whether it went well."""
    env = os.environ | {"KYRTOS_SECRET_KEY": "only-for-tests", "PYTHON": sys.executable} | more
    return subprocess.run(
        [ROOT / "tools" / name, *words], env=env, capture_output=True, text=True, timeout=300
    )


@pytest.fixture
def folder():
    """Where another account may go, too."""
    with tempfile.TemporaryDirectory(prefix="ky", dir="/var/tmp") as name:
        os.chmod(name, 0o755)
        yield Path(name)


@pytest.fixture
def elsewhere(folder):
    """A database server of its own, on a port of its own."""
    home = folder / "cluster"
    made = tool("cluster", "start", CLUSTER_HOME=str(home), CLUSTER_DURABLE="0")
    assert made.returncode == 0, made.stderr
    yield made.stdout.strip()
    tool("cluster", "destroy", CLUSTER_HOME=str(home))


def papers(database: str) -> list[bytes]:
    with psycopg.connect(database) as held:
        return [bytes(pdf) for (pdf,) in held.execute("select pdf from paper_paper order by id")]


@pytest.mark.nightly
def test_filled_backed_up_destroyed_and_restored_on_another_port(paper, here, elsewhere, tmp_path):
    file = tmp_path / "all.backup"
    assert run("save", file, here).returncode == 0
    assert file.stat().st_mode & 0o077 == 0  # it holds everything
    before = contents(here)
    Job.objects.get(title="Bookbinder's cellar").papers.all().delete()  # it burnt down
    done = tool("backup", "restore", str(file), DATABASE_URL=elsewhere)
    assert done.returncode == 0, done.stderr
    assert papers(elsewhere) == [paper]
    with psycopg.connect(elsewhere) as held:
        (jobs,) = held.execute("select count(*) from jobs_job").fetchone()
    assert jobs == Job.objects.count()
    assert before["paper_paper"] != contents(here)["paper_paper"]


def upgrade(database: str, *words: str) -> subprocess.CompletedProcess:
    settings = {"DJANGO_SETTINGS_MODULE": "kyrtos.config.settings", "DATABASE_URL": database}
    return tool("upgrade", *words, **settings, KYRTOS_FILES=str(Path(words[1]).parent / "files"))


def test_an_upgrade_is_backed_up_checked_and_taken_back(paper, here, elsewhere, tmp_path):
    file = tmp_path / "all.backup"
    run("save", file, here)
    tool("backup", "restore", str(file), DATABASE_URL=elsewhere, KYRTOS_FILES=str(tmp_path / "f"))
    done = upgrade(elsewhere, "go", str(tmp_path / "kept"))
    assert done.returncode == 0, done.stdout + done.stderr
    assert "all can be opened: 15 jobs, 1 papers" in done.stdout
    (saved,) = (tmp_path / "kept").iterdir()
    with psycopg.connect(elsewhere, autocommit=True) as held:
        refused = upgrade(elsewhere, "back", str(saved))
        assert "stop the servers" in refused.stderr
        held.execute("update paper_paper set pdf = 'spoilt'")
    spoilt = upgrade(elsewhere, "go", str(tmp_path / "again"))
    assert spoilt.returncode == 1
    assert "not everything can be opened" in spoilt.stderr
    assert "./run upgrade back" in spoilt.stderr
    (tmp_path / "kept" / "files").mkdir()
    (tmp_path / "kept" / "files" / "new.jpg").write_bytes(b"taken since")
    broken = tmp_path / "kept" / "broken.backup"
    broken.write_bytes(saved.read_bytes()[:-200])
    refused = upgrade(elsewhere, "back", str(broken))
    assert refused.returncode == 1
    assert "nothing was changed" in refused.stderr
    assert papers(elsewhere) == [b"spoilt"]
    broken.unlink()
    done = upgrade(elsewhere, "back", str(saved))
    assert done.returncode == 0, done.stderr
    assert papers(elsewhere) == [paper]
    rescue = [one for one in (tmp_path / "kept").iterdir() if "before-going-back" in one.name]
    assert len(rescue) == 1
    assert rescue[0].name in done.stdout
    with psycopg.connect(elsewhere) as held:
        names = [one for (one,) in held.execute("select datname from pg_database")]
    (before,) = [one for one in names if "_before_" in one]
    assert papers(elsewhere.rpartition("/")[0] + f"/{before}") == [b"spoilt"]  # kept whole beside
    assert not [one for one in names if "_back_" in one]


@pytest.mark.nightly
def test_a_going_back_that_fails_half_way_leaves_all_as_it_was(paper, here, elsewhere, tmp_path):
    """The proof fits and what comes differs from the manifest: nothing has given way to it."""
    file, other = tmp_path / "all.backup", tmp_path / "kept" / "other.backup"
    (tmp_path / "kept").mkdir()
    run("save", file, here)
    tool("backup", "restore", str(file), DATABASE_URL=elsewhere, KYRTOS_FILES=str(tmp_path / "f"))
    before = papers(elsewhere)
    test_backup.repacked(file, other, lambda content, parts: content["counts"].update(jobs_job=99))
    shutil.rmtree(other.with_name("parts"))
    done = upgrade(elsewhere, "back", str(other))
    assert done.returncode == 1
    assert "stands as it was. The rescue is" in done.stderr
    assert papers(elsewhere) == before
    with psycopg.connect(elsewhere) as held:
        names = [one for (one,) in held.execute("select datname from pg_database")]
    assert not [one for one in names if "_back_" in one or "_before_" in one]


@pytest.mark.nightly
def test_a_replica_follows_and_takes_the_place_of_the_first(elsewhere, folder):
    port, place = standing.free_port(), folder / "second"
    with psycopg.connect(elsewhere, autocommit=True) as first:
        first.execute("create table told (what text)")
        first.execute("insert into told values ('before')")
        made = tool("replica", "make", str(place), str(port), DATABASE_URL=elsewhere)
        try:
            assert made.returncode == 0, made.stderr
            first.execute("insert into told values ('while it follows')")
            second = elsewhere.rpartition("@")[0] + f"@127.0.0.1:{port}/app"

            def told() -> list[str]:
                with psycopg.connect(second) as held:
                    return [what for (what,) in held.execute("select what from told")]

            standing.until(lambda: told() == ["before", "while it follows"], "the second row")
            with pytest.raises(psycopg.errors.ReadOnlySqlTransaction):
                psycopg.connect(second, autocommit=True).execute("insert into told values ('x')")
            first.close()
            tool("cluster", "stop", CLUSTER_HOME=str(folder / "cluster"))
            assert tool("replica", "promote", str(place)).returncode == 0
            with psycopg.connect(second, autocommit=True) as held:
                held.execute("insert into told values ('after')")
            assert told()[-1] == "after"
        finally:
            tool("replica", "stop", str(place))
            shutil.rmtree(place, ignore_errors=True)

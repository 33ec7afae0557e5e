"""A database of the first version, with a paper and a house rule in it, is brought up and opens."""

from __future__ import annotations

import gzip
import json
import os
import subprocess
import sys
from pathlib import Path

import psycopg
import pytest
from django.db import connection

ROOT = Path(__file__).parents[2]
DUMP = ROOT / "tests" / "old" / "database.sql.gz"
LOOK = """
import hashlib, json
from kyrtos.accounts.models import Membership
from kyrtos.catalogue.models import CatalogueEntry
from kyrtos.house_rules.services import rules_of
from kyrtos.jobs.models import Job
from kyrtos.jobs.services import current, size_document
from kyrtos.paper.models import Paper
from kyrtos.paper.services import thaw
from kyrtos.shops.models import Shop

shop, paper = Shop.objects.get(), Paper.objects.get()
again = thaw(paper).sizing()
print(json.dumps({
    "jobs": [str(job) for job in Job.objects.all()],
    "sized": sum(size_document(shop, current(job)).chosen is not None for job in Job.objects.all()),
    "pumps": CatalogueEntry.objects.exclude(identity="").count(),
    "people": Membership.objects.count(),
    "starts": rules_of(shop).value("CYC-01") * 3600,
    "pdf": hashlib.sha256(bytes(paper.pdf)).hexdigest(),
    "pump": again.chosen.candidate.pump.name,
    "flow": again.chosen.candidate.flow_m3s * 3600,
    "limit": again.rules.value("CYC-01") * 3600,
}))
"""


@pytest.fixture
def old_database(db):
    """The dump, restored beside the test's own database."""
    held = connection.settings_dict
    server = f"postgresql://{held['USER']}:{held['PASSWORD']}@{held['HOST']}:{held['PORT']}"
    name = f"{held['NAME']}_old"
    with psycopg.connect(f"{server}/postgres", autocommit=True) as made:
        made.execute(f"DROP DATABASE IF EXISTS {name}")
        made.execute(f"CREATE DATABASE {name}")
    subprocess.run(
        ["psql", "-q", "-v", "ON_ERROR_STOP=1", f"{server}/{name}"],
        input=gzip.decompress(DUMP.read_bytes()),
        check=True,
        capture_output=True,
    )
    yield f"{server}/{name}"
    with psycopg.connect(f"{server}/postgres", autocommit=True) as made:
        made.execute(f"DROP DATABASE {name} WITH (FORCE)")


def manage(database: str, *command: str) -> str:
    environment = os.environ | {"DATABASE_URL": database}
    done = subprocess.run(
        [sys.executable, "manage.py", *command],
        cwd=ROOT,
        env=environment,
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0, done.stderr
    return done.stdout


def test_it_is_brought_up_and_opens(old_database):
    manage(old_database, "migrate", "--noinput", "-v", "0")
    seen = json.loads(manage(old_database, "shell", "-v", "0", "-c", LOOK).splitlines()[-1])
    assert len(seen["jobs"]) == 14
    assert "Bookbinder's cellar" in seen["jobs"]
    assert seen["sized"] >= 11
    assert (seen["pumps"], seen["people"]) == (82, 4)
    assert seen["starts"] == seen["limit"] == pytest.approx(12)
    assert seen["pdf"] == "925c27d38a5bc71e373acb57734bee8eff89ab7ce284512849247432a82c2450"
    assert seen["pump"] == "Ondrath K 11"
    assert seen["flow"] == pytest.approx(6.54, abs=0.005)

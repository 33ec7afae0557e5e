"""Lists of records ask the database as often for many rows as for few; files may lie elsewhere."""

from __future__ import annotations

import os
import subprocess
import sys

import pytest
from django.conf import settings
from django.db import connection
from django.test.utils import CaptureQueriesContext

from kyrtos.installations.models import InstalledPump


def queries(client, address):
    with CaptureQueriesContext(connection) as held:
        assert client.get(address).status_code == 200
    return len(held)


@pytest.mark.parametrize(
    "address", ["/pumps/", "/pumps/due/", "/pumps/life/?by=family", "/customers/", "/pumps.csv"]
)
def test_many_rows_take_no_more_queries_than_few(estimator, shop, address):
    many = queries(estimator, address)
    keep = list(shop.installed.values_list("pk", flat=True)[:3])
    InstalledPump.objects.exclude(pk__in=keep).delete()
    shop.sites.filter(pumps=None, jobs=None).delete()
    few = queries(estimator, address)
    assert many <= few + 2


def test_a_store_that_speaks_s3_is_chosen_by_its_bucket():
    ask = (
        "import django; django.setup();"
        "from django.core.files.storage import default_storage as d;"
        "print(type(d._wrapped or d).__name__, getattr(d, 'bucket_name', ''))"
    )
    env = os.environ | {
        "DJANGO_SETTINGS_MODULE": "kyrtos.config.settings",
        "KYRTOS_FILES_BUCKET": "pit-photos",
        "KYRTOS_FILES_ENDPOINT": "http://127.0.0.1:9/",
        "KYRTOS_FILES_KEY": "a",
        "KYRTOS_FILES_SECRET": "b",
        "KYRTOS_SECRET_KEY": "only-for-this-test",
    }
    done = subprocess.run(
        [sys.executable, "-c", ask],
        env=env,
        capture_output=True,
        text=True,
        check=True,
        cwd=settings.BASE_DIR,
    )
    assert "pit-photos" in done.stdout

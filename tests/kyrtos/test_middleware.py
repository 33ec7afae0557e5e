"""U+0000, which no database keeps, in every place that takes text."""

import json

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from kyrtos.catalogue.models import CatalogueEntry
from kyrtos.jobs.services import current
from sizing.document.job import dump
from tests.kyrtos.reading import text_of
from tests.kyrtos.test_imports import K5, csv_of, send
from tests.kyrtos.test_pump_form import TYPED

ADDRESSES = [
    "/?q=a%00b",
    "/?customer=%00",
    "/catalogue/?q=%00",
    "/catalogue/?family=%00",
    "/rules/?q=%00",
    "/which-pump/?liquid=%00",
]


@pytest.mark.parametrize("address", ADDRESSES)
def test_asked_for(estimator, address):
    assert estimator.get(address).status_code == 200


def test_typed(estimator, shop):
    assert estimator.post("/jobs/new/", {"title": "cel\0lar", "kind": "sump"}).status_code == 302
    assert shop.jobs.filter(title="cel\ufffdlar").exists()
    assert estimator.post("/catalogue/new/", TYPED | {"note": "no\0te"}).status_code == 302
    assert CatalogueEntry.objects.get(pump_id="ondrath-k-12").note == "no\ufffdte"
    assert estimator.get("/catalogue/new/?like=%00").status_code == 404


def test_in_files(estimator, job):
    spoilt = json.dumps(dump(current(job)) | {"title": "cel\0lar"}).encode()
    answer = estimator.post("/jobs/upload/", {"file": SimpleUploadedFile("job.json", spoilt)})
    assert answer.status_code == 422
    assert "U+0000" in text_of(answer)
    assert "Ond\ufffdrath K 5" in text_of(
        estimator.get(send(estimator, csv_of(K5.replace("Ondrath", "Ond\0rath"))).url)
    )

"""Every demo job opens, sizes, prints where it is whole, and survives nonsense."""

from __future__ import annotations

import io

import pytest
from pypdf import PdfReader

from kyrtos.demo.management.commands.load_demo import DEMO
from kyrtos.paper.services import issue
from kyrtos.worksheet.sheet import sheet
from sizing.editing import intake
from sizing.editing.edit import edit
from sizing.kinds import kinds
from sizing.pump.catalogue import Catalogue
from sizing.pump.catalogue_file import read_csv
from sizing.size import size
from tests.thin import some

FILES = sorted((DEMO / "jobs").glob("*.json"))
CATALOGUE = Catalogue([row.pump for row in read_csv((DEMO / "pumps.csv").read_text())])


def test_every_kind_has_a_demo_job():
    assert {intake.loads(path.read_bytes()).kind for path in FILES} == set(kinds())


@pytest.mark.parametrize("path", FILES, ids=lambda path: path.stem)
def test_it_sizes_and_prints_in_both_systems(path):
    job = intake.loads(path.read_bytes())
    for system in ("metric", "us"):
        made = sheet(size(edit(job, "units", system).job, CATALOGUE), currency="€")
        assert made.verdict
        assert made.stages


@pytest.mark.parametrize(
    "path", some([path for path in FILES if "04" < path.stem < "15"], 3), ids=lambda path: path.stem
)
def test_nonsense_in_its_fields_breaks_nothing(path):
    """What is refused changes no figure: of those one text a field goes through the sheet."""
    job = intake.loads(path.read_bytes())
    for question in some(kinds()[job.kind].questions, 6, job.kind):
        refused = 0
        for text in ("", "-1", "1e12", "abc", "3 psi", "0"):
            edited = edit(job, f"answers.{question.key}", text)
            refused += bool(edited.problem)
            if edited.problem and refused > 1:
                assert edited.job.answers == job.answers
                continue
            assert sheet(size(edited.job, CATALOGUE), currency="€").verdict


def test_the_whole_ones_become_papers_and_the_unfinished_do_not(shop, estimator):
    user = shop.memberships.get(role="estimator").user
    for job in some(list(shop.jobs.order_by("title")), 3):
        text = estimator.get(f"/jobs/{job.pk}/").content.decode()
        assert job.title.replace("'", "&#x27;") in text
        if job.state != "sized":
            assert "issue_paper" not in text
            continue
        pages = PdfReader(io.BytesIO(bytes(issue(job=job, user=user).pdf))).pages
        words = " ".join(" ".join(page.extract_text().split()) for page in pages)
        assert job.title in words
        assert "Signature of the customer" in words

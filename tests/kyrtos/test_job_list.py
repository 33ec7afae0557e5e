import re

import pytest

from kyrtos.jobs import services
from kyrtos.jobs.models import Job
from tests.kyrtos.conftest import change
from tests.kyrtos.reading import text_of


def titles(answer):
    return {job.title for job in answer.context["page"].object_list}


OPEN = {"Chandler's undercroft", "Boathouse crawl space"}
SIZED = {
    "Bookbinder's cellar",
    "Rowing club changing rooms",
    "Hostel willow bed",
    "Six cabins over the ridge",
    "Plant nursery and cottage",
    "Observatory visitor taps",
    "Converted mill, 24 rooms",
    "Bakery wash-down tank",
    "Courtyard rill",
    "Marine classroom tank",
    "Hydrotherapy tub, 22 jets",
    "Soup-kitchen van",
    "Ferry keeper's cottage well",
}
FOUND = [
    ("", OPEN | SIZED),
    ("?q=cellar", {"Bookbinder's cellar"}),
    ("?q=tanner+pell", {"Bookbinder's cellar"}),
    ("?q=Tarn+80", {"Bookbinder's cellar"}),
    ("?state=open", OPEN),
    ("?state=sized", SIZED),
    ("?kind=sewage", {"Rowing club changing rooms"}),
    ("?kind=sump&customer=M.+Aldous%2C+ship+chandler", {"Chandler's undercroft"}),
    ("?q=nothing", set()),
    ("?page=99&state=nonsense", set()),
]


@pytest.mark.parametrize(("query", "wanted"), FOUND)
def test_search_and_filters(estimator, query, wanted):
    assert titles(estimator.get(f"/{query}")) == wanted


def test_a_new_job_opens_as_a_blank_sheet(estimator, shop):
    answer = estimator.post(
        "/jobs/new/",
        {"title": "Vestry pit", "customer": "The sexton", "site": "Hill Street", "kind": "sump"},
        follow=True,
    )
    assert "Still needed:" in answer.content.decode()
    made = Job.objects.get(title="Vestry pit")
    assert (made.shop, made.state, made.customer) == (shop, "open", "The sexton")


@pytest.mark.parametrize(
    ("posted", "says"),
    [
        ({"title": " ", "kind": "sump", "customer": "Keep me"}, "Give the job a name"),
        ({"title": "x", "kind": "volcano", "customer": "Keep me"}, "Choose a kind"),
    ],
)
def test_a_form_that_cannot_be_keeps_what_was_typed(estimator, posted, says):
    answer = estimator.post("/jobs/new/", posted)
    assert answer.status_code == 422
    assert says in answer.content.decode()
    assert "Keep me" in answer.content.decode()


def test_as_many_queries_for_one_job_as_for_sixty(estimator, shop, job, django_assert_num_queries):
    estimator.get("/")
    with django_assert_num_queries(7) as few:
        estimator.get("/")
    content = services.current(job)
    for number in range(12):
        services.adopt(
            shop=shop, user=None, content=content.model_copy(update={"title": f"Cellar {number}"})
        )
    with django_assert_num_queries(len(few.captured_queries)):
        estimator.get("/")


def test_a_pump_that_was_picked_stands_on_the_bench_with_its_verdict(estimator, shop, job):
    change(estimator, job, "pump", "ondrath-k-5")
    job.refresh_from_db()
    shown = estimator.get(f"/jobs/{job.pk}/")
    word = re.search(r'verdict-word (\w+)"', shown.text)[1]
    assert (job.state, job.verdict) == ("sized", word)
    assert "Ondrath" in job.pump
    row = text_of(estimator.get("/", {"q": job.title})).split("<tbody")[1]
    assert "nothing fits" not in row
    copied = estimator.post(f"/jobs/{job.pk}/copy/")
    twin = shop.jobs.get(pk=copied.url.strip("/").split("/")[1])
    assert (twin.state, twin.verdict, twin.pump) == ("sized", word, job.pump)

"""A shop with people in every role, the demo catalogue and one job."""

from __future__ import annotations

import time

import pytest
from django.core.cache import cache
from django.db import connection
from django.test import Client

from kyrtos.accounts.models import Membership, Role, User
from kyrtos.config import queue
from kyrtos.jobs.models import Job
from kyrtos.shops.models import Shop
from tests.clock import _one_go_lasts  # noqa: F401
from tests.memo import _sizings_are_kept  # noqa: F401
from tests.snapshot import _nobody_left_in_the_database, demo_shop  # noqa: F401


@pytest.fixture(autouse=True)
def _nothing_held_from_before():
    """What one test left for later is not done by the next."""
    queue.held.clear()


@pytest.fixture(autouse=True)
def _nothing_counted_from_before(request, django_db_blocker):
    """The cache's table is none of Django's: a test with transactions of its own leaves rows."""
    yield
    marker = request.node.get_closest_marker("django_db")
    own = marker is not None and marker.kwargs.get("transaction")
    if own or "transactional_db" in request.fixturenames:
        with django_db_blocker.unblock():
            cache.clear()


@pytest.fixture
def empty_queue(transactional_db) -> None:
    """The queue's tables are none of Django's, so that no test empties them behind it."""
    with connection.cursor() as ask:
        ask.execute("truncate procrastinate_jobs cascade")


@pytest.fixture(scope="session")
def _demo(django_db_setup, django_db_blocker) -> int:
    """The demo shop, loaded once; what a test does to it is rolled back with the test."""
    with django_db_blocker.unblock():
        return demo_shop().pk


@pytest.fixture
def shop(db, _demo) -> Shop:
    found = Shop.objects.filter(pk=_demo).first()
    return found or demo_shop()  # a test with its own transactions has emptied the database


@pytest.fixture
def job(shop) -> Job:
    return shop.jobs.get(title="Bookbinder's cellar")


def sign_in_now(client: Client, user: User) -> None:
    """As by a password a moment ago: nobody is asked for it again."""
    client.force_login(user)
    session = client.session
    proof = {"method": "password", "at": time.time(), "reauthenticated": True}
    session["account_authentication_methods"] = [proof]
    session["account_authentication_methods_user"] = str(user.pk)
    session["seen_at"] = int(time.time())  # a session in use: nothing is noted for a minute
    session.save()


@pytest.fixture
def as_role(shop):
    """A client signed in as the demo person of a role; 'stranger' is the owner of another shop."""

    def sign_in(role: str) -> Client:
        client = Client()
        if role == "stranger":
            user = User.objects.create(username="stranger")
            Membership.objects.create(
                user=user, shop=Shop.objects.create(name="Elsewhere Pumps"), role=Role.OWNER
            )
            sign_in_now(client, user)
        elif role != "nobody":
            sign_in_now(client, Membership.objects.get(shop=shop, role=role).user)
        return client

    return sign_in


@pytest.fixture
def estimator(as_role) -> Client:
    return as_role("estimator")


def walk(client: Client, job: Job, direction: str):
    """Undo or redo from the revision in force, as the worksheet does."""
    job.refresh_from_db()
    return client.post(
        f"/jobs/{job.pk}/{direction}/",
        {"revision": job.current_revision},
        headers={"HX-Request": "true"},
    )


def change(
    client: Client,
    job: Job,
    path: str,
    value: str,
    *,
    revision: int | None = None,
    page: str = "page-1",
    **more,
):
    """Post one edit as the worksheet does."""
    sent = {
        "path": path,
        "value": value,
        "revision": job.current_revision if revision is None else revision,
        "page": page,
        **more,
    }
    return client.post(f"/jobs/{job.pk}/change/", sent, headers={"HX-Request": "true"})

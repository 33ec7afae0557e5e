"""A shop with 100,000 pumps.

Storing, publishing, the first look of a new worker, the catalogue's pages and its search.
"""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from pathlib import Path

PUMPS = 100_000
PAGES = (
    "/catalogue/",
    "/catalogue/?page=900",
    "/catalogue/?q=ondrath+99",
    "/catalogue/?q=g+4242",
    "/catalogue/?q=zzzz",
    "/catalogue/?family=sump&q=123",
    "/catalogue/p050000/",
)


def main() -> None:
    """Fill a database of its own, then time."""
    import django

    django.setup()
    from django.core.management import call_command
    from django.db import connection
    from django.test import Client

    from benchmarks import generated, place
    from kyrtos.accounts.models import User
    from kyrtos.catalogue import publishing
    from kyrtos.catalogue.services import store
    from kyrtos.demo.management.commands.load_demo import load

    place.empty()
    call_command("migrate", interactive=False, verbosity=0)
    shop = load()
    stored = _timed(lambda: store(shop, generated.pumps(PUMPS)))
    with connection.cursor() as cursor:
        cursor.execute("analyze")
    published = _timed(lambda: publishing.publish(shop))

    def opened() -> None:
        publishing._open.cache_clear()
        catalogue = publishing.catalogue_of(shop)
        catalogue.table.heads_m.sum(), catalogue.powers_w.sum(), catalogue.best_flow_m3s.sum()

    publishing.catalogue_of(shop)
    mapped = statistics.median(_timed(opened) for _ in range(5))

    def fetched() -> None:
        for path in Path(publishing.settings.CACHE_FOLDER).glob("*.catalogue"):
            path.unlink()
        opened()

    filled = statistics.median(_timed(fetched) for _ in range(5))
    print(
        f"{PUMPS} pumps: made and stored in {stored:.0f} s, published in {published:.1f} s; cold"
        f" fill of a worker {filled * 1e3:.0f} ms, {mapped * 1e3:.0f} ms once the machine has the"
        " file"
    )
    client = Client()
    client.force_login(User.objects.get(username="wenna"))
    for address in PAGES:
        client.get(address)
        taken = sorted(_timed(lambda address=address: client.get(address)) for _ in range(9))
        print(
            f"  {address:<32} median {statistics.median(taken) * 1e3:.0f} ms, slowest"
            f" {taken[-1] * 1e3:.0f} ms"
        )


def _timed(work: Callable[[], object]) -> float:
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


if __name__ == "__main__":
    main()

"""What else holds the name of a customer who asked to be forgotten: the record, files, mails."""

from __future__ import annotations

import email
import email.policy
import json
from collections.abc import Iterable
from datetime import date
from functools import partial
from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.sessions.models import Session
from django.db import transaction
from django.dispatch import receiver

from kyrtos.accounts.models import AuditEntry
from kyrtos.customers.crossing_out import Names
from kyrtos.customers.forgetting import Done, customer_forgotten
from kyrtos.customers.models import Customer, Gone
from kyrtos.operations import backups
from kyrtos.operations.models import Backup, ShopFile
from kyrtos.shops.models import BroughtIn, Merge, Trouble

_SAID = "_messages"


@receiver(customer_forgotten)
def _forgotten(customer: Customer, names: Names, dry: bool, **_: Any) -> list[Done]:
    shop = customer.shop_id
    # a file of all data holds the name in parts that are packed: it is made anew when asked for
    ready, _gone = ShopFile.objects.filter(shop=shop, kind=ShopFile.Kind.ALL).delete()
    return [
        Done(
            "lines of the record of who did what",
            names.cross_out(AuditEntry.objects.filter(shop=shop), "about"),
            "crossed out; who did it and when stays",
        ),
        Done(
            "what broke and was noted",
            names.cross_out(Trouble.objects.filter(shop=shop), "about", "trace"),
            "crossed out",
        ),
        Done("files of all data that were made", ready, "dropped: make them anew"),
        Done("merges and lists", _out_of_merges_and_lists(customer, names), "not undone any more"),
        Done("messages that wait for somebody's next page", _out_of_sessions(names), "dropped"),
        Done("mails that lie on the server", _out_of_mails(names, dry), "dropped"),
        *_back_ups(),
    ]


def _back_ups() -> list[Done]:
    """Back-ups are whole or none: nothing is taken out of one; by when the last is rotated out."""
    kept = Backup.objects.filter(gone=False)
    newest = kept.order_by("when").values_list("when", flat=True).last()
    if newest is None:
        return []
    months = newest.month - 1 + backups.MONTHS
    last = date(newest.year + months // 12, months % 12 + 1, 2)
    told = f"lapse by rotation, the last by {last}; a back-up of before must not be restored then"
    return [Done("back-ups of the whole server", kept.count(), told)]


def _out_of_merges_and_lists(customer: Customer, names: Names) -> int:
    """What could have been undone holds them as they were: it cannot be undone from now on."""
    shop = customer.shop_id
    customers = _with_merged("customer", [customer.pk])
    sites = _with_merged("site", customer.sites.values_list("pk", flat=True))

    def is_theirs(*rows: Any) -> bool:
        """Whether rows, as a serializer wrote them, are the customer or sites of theirs."""
        return any(
            (one["model"] == "customers.customer" and one["pk"] in customers)
            or one["fields"].get("customer") in customers
            or (one["model"] == "customers.site" and one["pk"] in sites)
            for one in rows
        )

    count = 0
    for merge in Merge.objects.filter(shop=shop):
        rows = [merge.before, merge.after, merge.gone]
        held = json.dumps((merge.goes_name, rows), ensure_ascii=False)
        if is_theirs(*rows) or names.within(held):
            merge.delete()
            count += 1
    shown = BroughtIn.objects.filter(shop=shop, state=BroughtIn.State.SHOWN)
    count += shown.delete()[0]  # packed, perhaps
    for one in BroughtIn.objects.filter(shop=shop):
        rows = [*one.made, *(each for pair in one.filled for each in pair.values())]
        held = json.dumps((one.name, one.report, rows), ensure_ascii=False)
        if is_theirs(*rows) or names.within(held):
            one.delete()
            count += 1
    return count


def _with_merged(kind: str, numbers: Iterable[int]) -> set[int]:
    """Records by number, and those that became a part of them."""
    found = set(numbers)
    merged = Gone.objects.filter(kind=kind, into__in=found)
    return found | set(merged.values_list("number", flat=True))


def _out_of_sessions(names: Names) -> int:
    """Messages that wait for the next page of whoever was told."""
    count = 0
    for session in Session.objects.iterator(chunk_size=200):
        held = session.get_decoded()
        if names.within(str(held.get(_SAID, ""))):
            del held[_SAID]
            session.session_data = Session.objects.encode(held)
            session.save(update_fields=["session_data"])
            count += 1
    return count


def _out_of_mails(names: Names, dry: bool) -> int:
    """Mails that this server wrote into a folder instead of sending them."""
    if not settings.EMAIL_FILE_PATH:
        return 0
    files = [
        file
        for file in Path(settings.EMAIL_FILE_PATH).glob("*.log")
        if names.within(_text_of(file.read_bytes()))
    ]
    for file in files if not dry else ():
        transaction.on_commit(partial(file.unlink, missing_ok=True))
    return len(files)


def _text_of(content: bytes) -> str:
    """Subject and text of the letters in one file, which are parted by a line of hyphens."""
    texts = []
    for part in content.split(b"\n" + b"-" * 79 + b"\n"):
        letter = email.message_from_bytes(part, policy=email.policy.default)
        body = letter.get_body(("plain",))
        texts += [str(letter["Subject"] or ""), body.get_content() if body else ""]
    return "\n".join(texts)

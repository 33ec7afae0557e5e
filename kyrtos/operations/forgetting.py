"""What else holds the name of a customer who asked to be forgotten: the record, files, mails."""

from __future__ import annotations

import email
import email.policy
import json
from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.sessions.models import Session
from django.dispatch import receiver

from kyrtos.accounts.models import AuditEntry
from kyrtos.customers.crossing_out import Names
from kyrtos.customers.models import Customer
from kyrtos.customers.records import customer_forgotten
from kyrtos.operations.models import ShopFile
from kyrtos.shops.models import BroughtIn, Merge, Trouble

_SAID = "_messages"


@receiver(customer_forgotten)
def _forgotten(customer: Customer, names: Names, **_: Any) -> None:
    shop = customer.shop_id
    names.cross_out(AuditEntry.objects.filter(shop=shop), "about")
    names.cross_out(Trouble.objects.filter(shop=shop), "about", "trace")
    # a file of all data holds the name in parts that are packed: it is made anew when asked for
    ShopFile.objects.filter(shop=shop, kind=ShopFile.Kind.ALL).delete()
    _out_of_merges_and_lists(shop, names)
    _out_of_sessions(names)
    _out_of_mails(names)


def _out_of_merges_and_lists(shop: int, names: Names) -> None:
    """What could have been undone holds them as they were: it cannot be undone from now on."""
    for merge in Merge.objects.filter(shop=shop):
        held = (merge.goes_name, merge.before, merge.after, merge.gone)
        if names.within(json.dumps(held, ensure_ascii=False)):
            merge.delete()
    BroughtIn.objects.filter(shop=shop, state=BroughtIn.State.SHOWN).delete()  # packed, perhaps
    for one in BroughtIn.objects.filter(shop=shop):
        held = (one.name, one.report, one.made, one.filled)
        if names.within(json.dumps(held, ensure_ascii=False)):
            one.delete()


def _out_of_sessions(names: Names) -> None:
    """Messages that wait for the next page of whoever was told."""
    for session in Session.objects.iterator(chunk_size=200):
        held = session.get_decoded()
        if names.within(str(held.get(_SAID, ""))):
            del held[_SAID]
            session.session_data = Session.objects.encode(held)
            session.save(update_fields=["session_data"])


def _out_of_mails(names: Names) -> None:
    """Mails that this server wrote into a folder instead of sending them."""
    if not settings.EMAIL_FILE_PATH:
        return
    for file in Path(settings.EMAIL_FILE_PATH).glob("*.log"):
        if names.within(_text_of(file.read_bytes())):
            file.unlink(missing_ok=True)


def _text_of(content: bytes) -> str:
    """Subject and text of the letters in one file, which are parted by a line of hyphens."""
    texts = []
    for part in content.split(b"\n" + b"-" * 79 + b"\n"):
        letter = email.message_from_bytes(part, policy=email.policy.default)
        body = letter.get_body(("plain",))
        texts += [str(letter["Subject"] or ""), body.get_content() if body else ""]
    return "\n".join(texts)

"""A job told in words: read by rules, with what is known of the customer and site already."""

from __future__ import annotations

from kyrtos.accounts.models import User
from kyrtos.accounts.terms import system_of
from kyrtos.house_rules.services import rules_of
from kyrtos.jobs import linking, services
from kyrtos.jobs.models import Job
from kyrtos.shops.models import Shop
from kyrtos.shops.services import terms_of
from sizing.editing.sentence.read import ReadSentence, read_sentence

_TITLE = 60  # letters of what was told


def tell(
    *, shop: Shop, user: User, told: str, customer: str = "", site: str = ""
) -> tuple[Job | None, ReadSentence]:
    """A new job from words, which stay in its note; None where they name no kind of job.

    What was told goes before what the site's record says.

    Raises
    ------
    SizingError
        Longer than is read.
    """
    known = linking.known(shop, customer, site)
    system = known.system or system_of(user.memberships.get(shop=shop))
    read = read_sentence(told, terms_of(shop, system), rules_of(shop))
    if read.job is None:
        return None, read
    told_keys = {one.path.removeprefix("answers.") for one in read.facts}
    others = {key: text for key, text in known.facts.items() if key not in told_keys}
    content = services.with_facts(shop, read.job, known, others)
    title = " ".join(told.split())
    named = {
        "title": title if len(title) <= _TITLE else title[: _TITLE - 1] + "…",
        "customer": customer,
        "site": site,
        "note": told,
    }
    return services.adopt(shop=shop, user=user, content=content.model_copy(update=named)), read

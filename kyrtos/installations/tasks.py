"""What is due is told by mail, once, in the morning of each shop."""

from __future__ import annotations

from procrastinate.contrib.django import app

from kyrtos.installations import reminders


@app.periodic(cron="30 * * * *")
@app.task(queueing_lock="tell what is due")
def tell_what_is_due(timestamp: int) -> None:
    """Mail to every shop where it is morning what is due at its pumps and was not told yet."""
    reminders.tell_all(reminders.where_it_is_morning())

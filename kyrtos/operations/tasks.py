"""What the worker does for the place as a whole, and files too large for a request."""

from __future__ import annotations

from django.conf import settings
from procrastinate.contrib.django import app

from kyrtos.config.queue import AGAIN, enqueue
from kyrtos.operations import backups, lost, shop_files
from kyrtos.operations.models import ShopFile


@app.periodic(cron="15 2 * * *")
@app.task(queueing_lock="nightly back-up", lock="back-up")
def nightly_backup(timestamp: int) -> None:
    """Back everything up, where a folder for it is set."""
    if settings.BACKUP_FOLDER:
        backups.make()


@app.task(retry=AGAIN, lock="back-up", queueing_lock="back-up now")
def backup_now() -> None:
    """Back everything up: somebody asked for it."""
    backups.make()


@app.task(retry=AGAIN)
def make_file(file_id: int) -> None:
    """Make a shop's file, or take one in."""
    shop_files.work_on(ShopFile.objects.get(pk=file_id))


@app.periodic(cron="*/2 * * * *")
@app.task(queueing_lock="what nobody works on")
def tell_of_lost_work(timestamp: int) -> None:
    """What stands as being worked on while no task for it is left is given back to who asked."""
    lost.give_back()


def soon(file: ShopFile) -> None:
    """Have a file worked on."""
    enqueue(make_file, lock="file", whose=file.shop_id, file_id=file.pk)

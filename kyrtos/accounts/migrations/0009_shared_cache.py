"""The table of counts that all processes share."""

from django.core.management import call_command
from django.db import migrations


def make(apps, schema_editor):
    call_command("createcachetable", "shared_cache", database=schema_editor.connection.alias, verbosity=0)


def drop(apps, schema_editor):
    schema_editor.execute("drop table if exists shared_cache")


class Migration(migrations.Migration):

    dependencies = [
        ('shop', '0008_signing_in'),
    ]

    operations = [migrations.RunPython(make, drop)]

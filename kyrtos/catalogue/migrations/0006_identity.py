"""Pumps are told apart by maker, model and variant as typed; the ids that jobs and papers know stay as they are."""

import hashlib
import unicodedata

from django.db import migrations, models


def identity(row):
    parts = (unicodedata.normalize("NFC", part).casefold() for part in (row.maker, row.model, row.variant))
    return "\x1f".join(" ".join(part.split()) for part in parts)


def fill_in(apps, schema_editor):
    Pump = apps.get_model("catalogue", "Pump")
    taken = set()
    rows = []
    for row in Pump.objects.only("shop_id", "pump_id", "maker", "model", "variant").iterator(chunk_size=5000):
        row.identity = identity(row)
        while (row.shop_id, row.identity) in taken:  # two that only an older program told apart
            row.identity += "\x1f2"
        taken.add((row.shop_id, row.identity))
        if not row.pump_id:  # names in another script had none, and broke every page that linked them
            row.pump_id = f"pump-{hashlib.sha256(row.identity.encode()).hexdigest()[:8]}"
        rows.append(row)
        if len(rows) == 2000:
            Pump.objects.bulk_update(rows, ["identity", "pump_id"])
            rows.clear()
    Pump.objects.bulk_update(rows, ["identity", "pump_id"])


class Migration(migrations.Migration):
    dependencies = [("catalogue", "0005_published_and_variants")]
    operations = [
        migrations.AddField("pump", "identity", models.CharField(default="", max_length=400), preserve_default=False),
        migrations.RunPython(fill_in, migrations.RunPython.noop),
        migrations.AddConstraint(
            "pump", models.UniqueConstraint(fields=["shop", "identity"], name="one_pump_per_identity")
        ),
    ]

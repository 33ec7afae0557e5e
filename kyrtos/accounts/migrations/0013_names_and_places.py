import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

from kyrtos.accounts.names import key_of


def keys(apps, schema_editor):
    """Of two names that look alike the older one has the key; both go on signing in."""
    User = apps.get_model("shop", "User")
    taken = set()
    for user in User.objects.order_by("pk"):
        key = key_of(user.username)
        if key not in taken:
            taken.add(key)
            User.objects.filter(pk=user.pk).update(name_key=key)


class Migration(migrations.Migration):

    dependencies = [("shop", "0012_task_notes")]

    operations = [
        migrations.AddField("user", "name_key", models.CharField(editable=False, max_length=64, null=True, unique=True)),
        migrations.AddField("user", "last_shop", models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name="+", to="shop.shop")),
        migrations.AddField("membership", "last_here", models.DateTimeField(null=True)),
        migrations.RunPython(keys, migrations.RunPython.noop),
    ]

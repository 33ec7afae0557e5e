"""The free texts of customer and site become records; nothing of a job is changed."""

import unicodedata

from django.db import migrations


def folded(name):
    return " ".join(unicodedata.normalize("NFC", name).casefold().split())


def link(apps, schema_editor):
    Job = apps.get_model("jobs", "Job")
    Customer = apps.get_model("customers", "Customer")
    Site = apps.get_model("customers", "Site")
    customers, sites = {}, {}
    for job in Job.objects.order_by("created", "pk").iterator(chunk_size=500):
        who = where = None
        name, place = folded(job.customer), folded(job.site)
        if name:
            key = (job.shop_id, name)
            if key not in customers:
                customers[key] = Customer.objects.create(
                    shop_id=job.shop_id, name=" ".join(job.customer.split()), known_as=name
                )
            who = customers[key]
        if place:
            key = (job.shop_id, who and who.pk, place)
            if key not in sites:
                sites[key] = Site.objects.create(
                    shop_id=job.shop_id,
                    customer=who,
                    name=" ".join(job.site.split()),
                    known_as=place,
                )
            where = sites[key]
        if who or where:
            Job.objects.filter(pk=job.pk).update(customer_record=who, site_record=where)


class Migration(migrations.Migration):
    dependencies = [("jobs", "0010_records"), ("customers", "0001_records")]
    operations = [migrations.RunPython(link, migrations.RunPython.noop)]

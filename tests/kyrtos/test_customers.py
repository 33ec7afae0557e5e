"""Customers and sites as records: linked by what a job says, merged, brought in, taken out."""

from __future__ import annotations

import io

import pytest
from django.core.files.storage import default_storage
from PIL import ExifTags, Image

from kyrtos.config import queue
from kyrtos.customers import cards, merging, photos
from kyrtos.customers.models import Customer, Site, SiteFile
from kyrtos.jobs import services
from kyrtos.jobs.models import Job
from kyrtos.paper import services as papers
from tests.kyrtos.conftest import change
from tests.kyrtos.reading import text_of


def make(shop, **given):
    user = shop.memberships.get(role="estimator").user
    told = {"kind_code": "sump", "title": "A pit", "customer": "Fenwick Orrin", "site": "Kiln End"}
    return services.create(shop=shop, user=user, **told | given)


def test_every_demo_job_has_its_records(shop):
    for job in shop.jobs.all():
        assert str(job.customer_record or "") == job.customer
        assert str(job.site_record or "") == job.site


@pytest.mark.parametrize("name", ["fenwick  ORRIN", " Fenwick Orrin "])
def test_one_record_however_it_is_written(shop, name):
    first, second = make(shop), make(shop, customer=name, site="kiln end")
    assert first.customer_record == second.customer_record
    assert first.site_record == second.site_record


def test_the_same_place_of_two_customers_is_two_sites(shop):
    assert make(shop).site_record != make(shop, customer="Corra Vane").site_record


def test_a_name_half_typed_leaves_nothing_behind(shop, estimator):
    job = make(shop, customer="Fen", site="")
    change(estimator, job, "customer", "Fenwick Orrin")
    assert not Customer.objects.filter(name="Fen").exists()
    assert Customer.objects.filter(name="Fenwick Orrin").exists()


def test_a_record_with_something_in_it_stays(shop, estimator):
    job = make(shop)
    Customer.objects.filter(pk=job.customer_record_id).update(phone="0555 1")
    change(estimator, job, "customer", "Corra Vane")
    assert Customer.objects.filter(name="Fenwick Orrin").exists()


def test_a_new_name_of_a_record_is_found_by_the_old_one_too(shop, estimator):
    job = make(shop)
    record = job.customer_record
    posted = {"name": "Orrin & Daughter"}
    assert estimator.post(f"/customers/{record.pk}/edit/", posted).status_code == 302
    assert make(shop).customer_record == record
    assert make(shop, customer="Orrin & Daughter").customer_record == record


def test_what_a_site_knows_begins_the_next_job(shop):
    site = make(shop).site_record
    Customer.objects.filter(pk=site.customer_id).update(units="us")
    Site.objects.filter(pk=site.pk).update(voltage_v=400.0, phases=3, frequency_hz=60.0)
    content = services.current(make(shop))
    assert content.units == "us"
    assert content.answers["voltage"].si("voltage") == 400.0
    assert content.answers["phases"] == "3"
    assert content.answers["supply_frequency"].si("mains") == 60.0


def test_merging_moves_jobs_sites_and_photos_and_keeps_what_lacked(shop, as_role):
    one, two = make(shop), make(shop, customer="F. Orrin", site="kiln end")
    three = make(shop, customer="F. Orrin", site="Upper barn")
    stays, goes = one.customer_record, two.customer_record
    Customer.objects.filter(pk=goes.pk).update(phone="0555 7", notes="gate code 3")
    answer = as_role("estimator").post(f"/customers/{goes.pk}/merge/", {"stays": stays.pk})
    assert answer.status_code == 302
    stays.refresh_from_db()
    assert (stays.phone, stays.notes) == ("0555 7", "gate code 3")
    assert not Customer.objects.filter(pk=goes.pk).exists()
    for job in (one, two, three):
        job.refresh_from_db()
        assert job.customer_record == stays
    assert one.site_record == two.site_record
    assert make(shop, customer="F. Orrin").customer_record == stays


def test_nobody_is_merged_with_themselves_or_with_a_strangers(shop, as_role):
    record = make(shop).customer_record
    owner = as_role("owner")
    theirs = Customer.objects.create(
        shop=type(shop).objects.create(name="Elsewhere"), name="Somebody"
    )
    for other in (record.pk, theirs.pk, "x", ""):
        answer = owner.post(f"/customers/{record.pk}/merge/", {"stays": other})
        assert answer.status_code == 422
        assert "Nothing was merged" in text_of(answer)
    with pytest.raises(merging.CannotMerge):
        merging.merge_customers(record, theirs)


@pytest.mark.parametrize("words", ["0555 77", "orrin", "kiln", "gate code", "FENWICK end"])
def test_found_by_anything(shop, estimator, words):
    record = make(shop).customer_record
    Customer.objects.filter(pk=record.pk).update(phone="0555 77", notes="gate code 3")
    assert "Fenwick Orrin" in text_of(estimator.get("/customers/", {"q": words}))


def test_out_as_csv_and_cards_and_in_again(shop, as_role):
    make(shop)
    Customer.objects.filter(name="Fenwick Orrin").update(
        phone="0555 7", mail="f@orrin.example", people="Ida, daughter", address="1 Weir Steps"
    )
    owner = as_role("owner")
    for kind in ("csv", "vcf"):
        content = owner.get(f"/customers.{kind}").content
        Job.objects.all().delete()
        shop.installed.all().delete()
        shop.sites.all().delete()
        shop.customers.all().delete()
        taken = cards.take_in(shop, content)
        assert taken.left == []
        again = shop.customers.get(name="Fenwick Orrin")
        assert (again.phone, again.mail) == ("0555 7", "f@orrin.example")
        assert "1 Weir Steps" in again.address
        if kind == "csv":
            assert again.sites.get().name == "Kiln End"
        assert cards.take_in(shop, content).new == 0


@pytest.mark.parametrize(
    ("content", "says"),
    [
        (b"", "file is empty"),
        (b"phone;mail\n1;2", "no column called name"),
        (b"BEGIN:VCARD\nVERSION:3.0\nnonsense", "cannot be read"),
        (b"\xff\xfe\x00\x01" * 9, "no"),
    ],
)
def test_a_list_that_cannot_be_read_is_told_and_changes_nothing(shop, as_role, content, says):
    before = shop.customers.count()
    sent = io.BytesIO(content)
    sent.name = "list.csv"
    answer = as_role("owner").post("/customers/import/", {"file": sent})
    assert answer.status_code == 422
    assert says in text_of(answer)
    assert shop.customers.count() == before


def test_rows_that_cannot_be_are_left_out_and_told(shop):
    rows = b"Company;E-Mail\nAlder;a@b.example\n;x@y.example\nBryn;nonsense\n"
    taken = cards.take_in(shop, rows)
    assert taken.new == 1
    assert [one.split(":")[0] for one in taken.left] == ["row 3", "row 4"]


def test_a_comma_table_of_the_trade_fills_up_and_never_writes_over(shop):
    record = make(shop).customer_record
    Customer.objects.filter(pk=record.pk).update(phone="0555 1")
    rows = b"client,phone,mail\nFenwick Orrin,0999,f@o.example\n"
    assert cards.take_in(shop, rows).filled == 1
    record.refresh_from_db()
    assert (record.phone, record.mail) == ("0555 1\n0999", "f@o.example")


def test_taken_out_on_request_nothing_names_them_and_papers_stay(shop, as_role):
    owner = as_role("owner")
    user = shop.memberships.get(role="owner").user
    job = shop.jobs.get(title="Bookbinder's cellar")
    name = job.customer
    paper = papers.issue(job=job, user=user)
    old_pdf = bytes(paper.pdf)
    job.notes.create(user=user, text=f"{name} called")
    record = job.customer_record
    record.phone = "0555 7"
    record.save()
    where = f"/customers/{record.pk}/forget/"
    owner.post(where, {})
    assert Customer.objects.get(pk=record.pk).name == name  # not sure: nothing
    owner.post(where, {"sure": "on"})
    queue.run_held()
    job.refresh_from_db()
    paper.refresh_from_db()
    record.refresh_from_db()
    assert "taken out" in record.name
    assert record.phone == ""
    held = [str(one.document) for one in job.revisions.all()]
    held += [one.text for one in job.notes.all()] + [job.customer, job.site, str(paper.document)]
    assert not any(name in one for one in held)
    assert bytes(paper.pdf).startswith(b"%PDF-")
    assert bytes(paper.pdf) != old_pdf
    assert papers.thaw(paper).sizing().chosen is not None  # and it can be shown what was sold
    assert make(shop, customer=name).customer_record != record


# --- photos


def picture(width=3000, height=1500, *, place=True, turned=1):
    made = Image.new("RGB", (width, height), "red")
    exif = Image.Exif()
    exif[ExifTags.Base.Orientation] = turned
    exif[ExifTags.Base.Make] = "Camera"
    if place:
        gps = exif.get_ifd(ExifTags.IFD.GPSInfo)
        gps[ExifTags.GPS.GPSLatitudeRef] = "N"
        gps[ExifTags.GPS.GPSLatitude] = (50.0, 1.0, 2.0)
    out = io.BytesIO()
    made.save(out, "JPEG", exif=exif)
    return out.getvalue()


def send(client, site, content, name="pit.jpg", **more):
    sent = io.BytesIO(content)
    sent.name = name
    return client.post(f"/sites/{site.pk}/files/", {"file": sent, "place": "pump", **more})


@pytest.mark.parametrize("keep", [False, True])
def test_a_photo_is_shrunk_upright_and_says_no_place_unless_asked_to(estimator, job, keep):
    more = {"keep_position": "on"} if keep else {}
    answer = send(estimator, job.site_record, picture(turned=6), **more)
    assert answer.status_code == 302
    kept = SiteFile.objects.get()
    stored = default_storage.open(kept.stored).read()
    with Image.open(io.BytesIO(stored)) as shown:
        assert shown.size == (1000, 2000)  # it was turned, and is upright now
        assert ExifTags.Base.Make not in shown.getexif()
    assert photos.position_in(stored) is keep
    shown = estimator.get(f"/sites/files/{kept.pk}/")
    assert shown.headers["Content-Type"] == "image/jpeg"
    assert b"".join(shown.streaming_content) == stored


@pytest.mark.parametrize(
    ("content", "name", "says"),
    [
        (b"", "a.jpg", "empty"),
        (b"<svg onload=alert(1)>", "a.svg", "no picture"),
        (b"<script>", "a.jpg", "no picture"),
        (b"hello", "a.pdf", "called .pdf"),
        (b"MZ", "a.exe", "no picture"),
    ],
)
def test_what_is_no_photo_or_file_is_told_and_not_kept(estimator, job, content, name, says):
    answer = send(estimator, job.site_record, content, name)
    assert answer.status_code == 422
    assert says in text_of(answer)
    assert not SiteFile.objects.exists()


def test_a_file_goes_out_as_a_file_and_is_taken_away_whole(
    estimator, job, django_capture_on_commit_callbacks
):
    send(estimator, job.site_record, b"%PDF-1.7 x", "../../plan.pdf", job=str(job.pk))
    kept = SiteFile.objects.get()
    assert (kept.name, kept.job, kept.is_photo) == ("plan.pdf", job.pk, False)
    answer = estimator.get(f"/sites/files/{kept.pk}/")
    assert answer.headers["Content-Disposition"].startswith("attachment")
    assert "pdf" in text_of(estimator.get(f"/sites/{job.site_record_id}/"))
    with django_capture_on_commit_callbacks(execute=True):
        estimator.post(f"/sites/files/{kept.pk}/remove/")
    assert not default_storage.exists(kept.stored)


def test_a_job_keeps_200_mb_and_no_more(estimator, job, monkeypatch):
    monkeypatch.setattr(photos, "MOST_OF_A_JOB_BYTES", 40_000)
    assert send(estimator, job.site_record, picture(400, 300)).status_code == 302
    noise = Image.effect_noise((900, 900), 200)
    out = io.BytesIO()
    noise.save(out, "PNG")
    answer = send(estimator, job.site_record, out.getvalue(), "b.png")
    assert "200 MB" in text_of(answer)


def test_nonsense_in_a_sites_figures_stands_beside_its_field(estimator, job):
    where = f"/sites/{job.site_record_id}/edit/"
    posted = {"name": job.site, "altitude_m": "high", "frost_depth_m": "80 cm", "latitude": "95"}
    answer = estimator.post(where, posted)
    assert answer.status_code == 422
    for text in ("high", "80 cm", "95"):
        assert f'value="{text}"' in answer.text
    assert 'id="altitude_m_error"' in answer.text
    assert 'id="frost_depth_m_error"' not in answer.text
    estimator.post(where, posted | {"altitude_m": "1000 ft", "latitude": "50.1", "longitude": "1"})
    job.site_record.refresh_from_db()
    assert job.site_record.altitude_m == pytest.approx(304.8)
    assert job.site_record.frost_depth_m == 0.8
    assert "304.80 m" in text_of(estimator.get(f"/sites/{job.site_record_id}/"))

"""Pumps at a site, for the pages of customers, which know nothing of them."""

from __future__ import annotations

from django import template
from django.db.models import QuerySet
from django.urls import reverse

from kyrtos.customers.models import Site, SiteFile
from kyrtos.drawing.photo_marks import PhotoMark, photo_marks
from kyrtos.drawing.picture import Picture
from kyrtos.installations.models import InstalledPump
from kyrtos.jobs.models import Job
from kyrtos.shops import trouble

register = template.Library()


@register.simple_tag
def pumps_at(site: Site) -> QuerySet[InstalledPump]:
    """All that stands and stood at a site, what runs first."""
    return InstalledPump.objects.filter(site=site).select_related("replaced_by", "site")


@register.simple_tag
def photos_at(site: Site) -> QuerySet[SiteFile]:
    """The photos of a site, by where they belong."""
    return site.files.filter(is_photo=True)[:12]


@register.simple_tag
def marks_of(picture: Picture, job: Job) -> tuple[PhotoMark, ...]:
    """Where in the picture of a job the photos of its site belong."""
    if job.site_record is None:
        return ()
    by_place: dict[str, list[SiteFile]] = {}
    for file in photos_at(job.site_record):
        by_place.setdefault(file.place, []).append(file)
    marks = {
        place: (
            f"Photo of {files[0].get_place_display()}",
            len(files),
            reverse("site-file", args=[files[0].pk]),
        )
        for place, files in by_place.items()
    }
    nothing: tuple[PhotoMark, ...] = ()
    return trouble.alone(
        job.shop, "the photos in the picture", lambda: photo_marks(picture, marks), nothing, job.pk
    )


@register.simple_tag
def pumps_of(job: Job) -> QuerySet[InstalledPump]:
    """All that was put in for a job."""
    return InstalledPump.objects.filter(job=job).select_related("site")

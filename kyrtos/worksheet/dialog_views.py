"""The dialogs of the worksheet: questions put to the job as it stands, and the survey of a leg."""

from __future__ import annotations

from typing import Any, cast
from uuid import UUID

from django.contrib import messages
from django.core.files.uploadedfile import UploadedFile
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST, require_safe

from kyrtos.accounts.models import User
from kyrtos.accounts.permissions import ShopRequest, may
from kyrtos.accounts.share import share
from kyrtos.catalogue.publishing import catalogue_of
from kyrtos.config.middleware import takes
from kyrtos.jobs import devices, recordings, services, sun_from_file
from kyrtos.jobs.tasks import record_soon, take_sun_soon
from kyrtos.jobs.told_alone import told_alone
from kyrtos.shops.services import basins_of
from kyrtos.worksheet import views
from kyrtos.worksheet.dialogs import dialogs
from kyrtos.worksheet.dialogs.base import Asked
from kyrtos.worksheet.dialogs.calculation_review import asked_of
from kyrtos.worksheet.dialogs.measured import view_of as measured_view_of
from kyrtos.worksheet.dialogs.survey import survey_view
from kyrtos.worksheet.dialogs.weather import view_of as weather_view_of
from sizing.analysis.changed import known
from sizing.base.errors import SizingError
from sizing.editing import edit_structure
from sizing.hydraulics import survey
from sizing.hydraulics.survey import Pairs

MOST_BYTES = 2_000_000
_HOURS = 6.0  # of the devices' own day


@require_safe
@may("see")
@share
@told_alone("this question")
def dialog(request: ShopRequest, job_id: UUID, name: str) -> HttpResponse:
    """One question put to the job; what it still lacks is told in its place."""
    asked_for = dialogs().get(name)
    if asked_for is None:
        raise Http404
    job = views.find_job(request, job_id)
    sizing = services.size_document(job.shop, services.current(job))
    try:
        base = known(sizing)
        asked = Asked(
            base,
            catalogue_of(job.shop),
            request.GET,
            job.shop.currency,
            basins_of(job.shop),
            recordings.latest(job),
            str(job.pk),
        )
        view = asked_for.view(asked)
    except SizingError as problem:
        text = str(problem)
        return render(request, "dialogs/notyet.html", {"problem": text[:1].upper() + text[1:]})
    context = {"view": view, "pump": base.pump_name, "job": job}
    return render(request, f"dialogs/{name}.html", context)


@require_safe
@may("see")
@share
@told_alone("the ground of a leg")
def ground(request: ShopRequest, job_id: UUID) -> HttpResponse:
    """The survey of a leg, to look at and to change."""
    job = views.find_job(request, job_id)
    sizing = services.size_document(job.shop, services.current(job))
    try:
        view = survey_view(sizing, request.GET.get("leg", ""))
    except SizingError as problem:
        return render(request, "dialogs/notyet.html", {"problem": str(problem)})
    return render(request, "dialogs/survey.html", {"view": view, "job": job})


@require_POST
@takes(MOST_BYTES)
@may("edit job")
@told_alone("the ground of a leg")
def take_survey(request: ShopRequest, job_id: UUID) -> HttpResponse:
    """Take or forget the survey of a leg.

    The worksheet when it went well, else the dialog with what is wrong.
    """
    job, leg, text = (
        views.find_job(request, job_id),
        request.POST.get("leg", ""),
        request.POST.get("text", ""),
    )
    try:
        if request.POST.get("do") == "drop":
            saved = services.change(
                job=job,
                user=views.user_of(request),
                path="",
                page=request.POST.get("page", "")[:40],
                apply=lambda content: edit_structure.drop_survey(content, leg),
            )
        else:
            upload = request.FILES.get("file")
            pairs = _from_file(upload) if isinstance(upload, UploadedFile) else survey.read(text)
            shift = request.POST.get("shift") == "1"
            saved = services.change(
                job=job,
                user=views.user_of(request),
                path="",
                page=request.POST.get("page", "")[:40],
                apply=lambda content: edit_structure.set_survey(content, leg, pairs, shift=shift),
            )
    except SizingError as problem:
        sizing = services.size_document(job.shop, services.current(job))
        try:
            view = survey_view(sizing, leg, str(problem), text)
        except SizingError as gone:
            return render(request, "dialogs/notyet.html", {"problem": str(gone)}, status=422)
        return render(request, "dialogs/survey.html", {"view": view, "job": job}, status=422)
    return views.answer(request, saved.job, saved.document)


def _from_file(upload: UploadedFile[Any]) -> Pairs:
    """A survey from an uploaded file, by what it holds.

    Raises
    ------
    SizingError
    """
    if (upload.size or 0) > MOST_BYTES:
        raise SizingError("the file is larger than 2 MB: thin the track out first")
    try:
        text = upload.read().decode("utf-8-sig")
    except UnicodeDecodeError:
        raise SizingError("the file is no text in UTF-8: save it as CSV, GPX or GeoJSON") from None
    start = text.lstrip()[:1]
    return (
        survey.read_gpx(text)
        if start == "<"
        else survey.read_geojson(text)
        if start in ("{", "[")
        else survey.read(text)
    )


@require_POST
@takes(MOST_BYTES)
@may("edit job")
@told_alone("what was measured")
def take_log(request: ShopRequest, job_id: UUID) -> HttpResponse:
    """Take a logger's file or the devices' last hours, or begin a recording: the dialog again."""
    job, user, do = views.find_job(request, job_id), views.user_of(request), request.POST.get("do")
    problem = ""
    try:
        if do == "record":
            record_soon(recordings.begin(job, user))
        elif do == "log":
            recordings.keep(job, user, "the devices' last hours", devices.log(_HOURS))
        else:
            recordings.keep(job, user, *_log_sent(request))
    except SizingError as told:
        problem = str(told)
    sizing = services.size_document(job.shop, services.current(job))
    try:
        view = measured_view_of(known(sizing), recordings.latest(job), problem)
    except SizingError as lacks:
        return render(request, "dialogs/notyet.html", {"problem": str(lacks)}, status=422)
    context = {"view": view, "job": job}
    return render(request, "dialogs/measured.html", context, status=422 if problem else 202)


def _log_sent(request: ShopRequest) -> tuple[str, str]:
    """Name and text of a logger's file; raises SizingError where there is none."""
    upload = request.FILES.get("file")
    if not isinstance(upload, UploadedFile):
        raise SizingError("choose a logger's file first")
    if (upload.size or 0) > MOST_BYTES:
        raise SizingError("the file is larger than 2 MB: thin it out first")
    try:
        return upload.name or "a logger's file", upload.read().decode("utf-8-sig")
    except UnicodeDecodeError:
        raise SizingError("the file is no text in UTF-8: save it as CSV") from None


@require_POST
@takes(sun_from_file.MOST_BYTES)
@may("edit job")
@told_alone("the weather file")
def take_weather(request: ShopRequest, job_id: UUID) -> HttpResponse:
    """Lay a weather file by for the worker; then the dialog again."""
    job, upload, problem = views.find_job(request, job_id), request.FILES.get("file"), ""
    try:
        if not isinstance(upload, UploadedFile):
            raise SizingError("choose a weather file first")
        if (upload.size or 0) > sun_from_file.MOST_BYTES:
            raise SizingError("the file is larger than 4 MB: a typical year is smaller")
        sun_from_file.lay_by(job, upload.name or "a weather file", upload.read())
        take_sun_soon(job, views.user_of(request))
    except SizingError as told:
        problem = str(told)
    context = {"view": weather_view_of(str(job.pk), problem), "job": job}
    return render(request, "dialogs/weather.html", context, status=422 if problem else 202)


@require_POST
@may("edit job")
@told_alone("the second look")
def keep_calculation_review(request: ShopRequest, job_id: UUID) -> HttpResponse:
    """Let somebody else's figure stand on the job, for its paper; or take it off again."""
    job = views.find_job(request, job_id)
    figure = None
    if request.POST.get("do") != "drop":
        given = {name: str(text) for name, text in request.POST.items()}
        try:
            figure = asked_of(given, services.current(job).units)
        except SizingError as problem:
            messages.error(request, f"Nothing was kept: {problem}.")
            return redirect("worksheet", job_id=job.pk)
    services.change(
        job=job,
        user=cast(User, request.user),
        path="",
        page="",
        apply=lambda content: content.model_copy(update={"second_look": figure}),
    )
    return redirect("worksheet", job_id=job.pk)

"""Every address of Kyrtos."""

from django.urls import include, path

from kyrtos.catalogue.pump_family import which
from kyrtos.config.views import favicon, may_send, sign_in_first
from kyrtos.paper.views import blank_site_sheet
from kyrtos.worksheet.views import pipes_like

urlpatterns = [
    path("", include("kyrtos.jobs.urls")),
    path("", include("kyrtos.accounts.urls")),
    path("rules/", include("kyrtos.house_rules.urls")),
    path("jobs/<uuid:job_id>/", include("kyrtos.worksheet.urls")),
    path("jobs/<uuid:job_id>/paper/", include("kyrtos.paper.urls")),
    path("catalogue/", include("kyrtos.catalogue.urls")),
    path("", include("kyrtos.customers.urls")),
    path("", include("kyrtos.installations.urls")),
    path("", include("kyrtos.counter.urls")),
    path("", include("kyrtos.calculation_review.urls")),
    path("which-pump/", which, name="which-pump"),
    path("site-sheet/<slug:kind>.pdf", blank_site_sheet, name="blank-site-sheet"),
    path("pipes/", pipes_like, name="pipes-like"),
    path("", include("kyrtos.operations.urls")),
    path("may-send", may_send, name="may-send"),
    path("sign-in-first", sign_in_first, name="sign-in-first"),
    path("favicon.ico", favicon),
]

handler404 = "kyrtos.config.views.not_found"
handler500 = "kyrtos.config.views.server_error"

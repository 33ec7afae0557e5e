from django.urls import path, re_path

from kyrtos.worksheet import dialog_views, own_pump_views, views

urlpatterns = [
    path("", views.worksheet, name="worksheet"),
    path("change/", views.change, name="change"),
    re_path(r"^legs/(?P<action>add|remove|up|down)/$", views.legs, name="legs"),
    path("remedy/", views.remedy, name="remedy"),
    path("basin/", views.basin, name="take-basin"),
    re_path(r"^rows/(?P<action>add|remove)/$", views.rows, name="rows"),
    re_path(r"^(?P<direction>undo|redo)/$", views.step, name="step"),
    path("dialogs/survey/", dialog_views.ground, name="ground"),
    path("dialogs/own-pump/", own_pump_views.ask, name="ask-own-pump"),
    path("dialogs/<slug:name>/", dialog_views.dialog, name="dialog"),
    path("own-pump/", own_pump_views.take, name="own-pump"),
    path("weather/", dialog_views.take_weather, name="take-weather"),
    path("measured/", dialog_views.take_log, name="take-log"),
    path(
        "calculation-review/", dialog_views.keep_calculation_review, name="keep-calculation-review"
    ),
    path("survey/", dialog_views.take_survey, name="survey"),
    path("job.json", views.download, name="job-file"),
    path("sizing.json", views.result, name="sizing-file"),
    path("following/", views.following, name="following-job"),
    path("copy/", views.copy, name="copy-job"),
]

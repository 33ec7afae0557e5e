from django.urls import path, re_path

from kyrtos.installations import offline_views, pump_views, reliability_views, views

urlpatterns = [
    path("pumps/", views.pump_list, name="installed-pumps"),
    path("pumps/due/", views.due, name="due"),
    path("pumps/life/", reliability_views.life, name="life"),
    path("pumps/life/as-rule/", reliability_views.as_rule, name="life-as-rule"),
    path("pumps/import/", views.bring_in, name="import-installed"),
    path("pumps/labels.pdf", views.label_sheet, name="label-sheet"),
    re_path(r"^pumps\.(?P<kind>csv|xlsx)$", views.export, name="export-installed"),
    path("sites/<int:site_id>/pumps/new/", views.put_in, name="new-installed"),
    path("jobs/<uuid:job_id>/put-in/", views.put_in_for, name="put-in"),
    # what a label opens, on the phone beside the pump; the service worker keeps to this branch
    path("p/worker.js", offline_views.worker, name="pump-worker"),
    path("p/now/", offline_views.now, name="phone-now"),
    path("p/<slug:code>/", pump_views.page, name="installed-pump"),
    path("p/<slug:code>/change/", views.change, name="change-installed"),
    path("p/<slug:code>/label.pdf", views.label, name="label"),
    path("p/<slug:code>/plate/", pump_views.plate, name="plate"),
    path("p/<slug:code>/events/", pump_views.add_event, name="add-event"),
    path("p/<slug:code>/events/<int:event_id>/back/", pump_views.take_back, name="take-back"),
    path("p/<slug:code>/reminders/", pump_views.add_reminder, name="add-reminder"),
    path(
        "p/<slug:code>/reminders/<int:reminder_id>/", pump_views.reminder_done, name="reminder-done"
    ),
    path("p/<slug:code>/commission/", pump_views.commission, name="commission"),
    # a phone that was offline for long still sends what it kept to the old address
    path("p/<slug:code>/readings/", pump_views.commission),
    path("p/<slug:code>/readings/before/", pump_views.before, name="old-readings"),
    path("p/<slug:code>/readings/<int:set_id>/", pump_views.reading_set, name="readings"),
    path(
        "p/<slug:code>/readings/<int:set_id>/as-built/", pump_views.take_as_built, name="as-built"
    ),
]

from django.urls import path

from kyrtos.catalogue import archiving_views, trace_views, views

urlpatterns = [
    path("", views.catalogue, name="catalogue"),
    path("import/", views.import_pumps, name="import-pumps"),
    path("import/<int:import_id>/", views.one_import, name="import"),
    path("import/<int:import_id>/report.csv", views.import_report, name="import-report"),
    path("trace/", trace_views.traces, name="traces"),
    path("trace/<int:trace_id>/", trace_views.one_trace, name="trace"),
    path("trace/<int:trace_id>/image.png", trace_views.image, name="trace-image"),
    path("trace/<int:trace_id>/act/", trace_views.act, name="trace-act"),
    path("trace/<int:trace_id>/save/", trace_views.save, name="trace-save"),
    path("new/", views.new_pump, name="new-pump"),
    path("<slug:pump_id>/edit/", views.edit_pump, name="edit-pump"),
    path("<slug:pump_id>/archive/", archiving_views.archive, name="archive-pump"),
    path("<slug:pump_id>/merge/", archiving_views.merge, name="merge-pump"),
    path("merges/<int:merge_id>/undo/", archiving_views.undo_merge, name="undo-pump-merge"),
    path("<slug:pump_id>/accept/", views.accept, name="accept-pump"),
    path("pumps.csv", views.export, name="export-pumps"),
    path("<slug:pump_id>/", views.pump, name="pump"),
]

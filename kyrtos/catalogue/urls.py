from django.urls import path

from kyrtos.catalogue import views

urlpatterns = [
    path("", views.catalogue, name="catalogue"),
    path("import/", views.import_pumps, name="import-pumps"),
    path("import/<int:import_id>/", views.one_import, name="import"),
    path("pumps.xlsx", views.export_xlsx, name="export-xlsx"),
    path("<slug:pump_id>/accept/", views.accept, name="accept-pump"),
    path("pumps.csv", views.export, name="export-pumps"),
    path("<slug:pump_id>/", views.pump, name="pump"),
]

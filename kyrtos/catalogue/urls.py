from django.urls import path

from kyrtos.catalogue import views

urlpatterns = [
    path("", views.catalogue, name="catalogue"),
    path("import/", views.import_pumps, name="import-pumps"),
    path("pumps.csv", views.export, name="export-pumps"),
    path("<slug:pump_id>/", views.pump, name="pump"),
]

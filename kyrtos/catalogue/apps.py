from django.apps import AppConfig


class CatalogueConfig(AppConfig):
    name = "kyrtos.catalogue"

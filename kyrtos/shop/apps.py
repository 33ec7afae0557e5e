from django.apps import AppConfig


class ShopConfig(AppConfig):
    name = "kyrtos.shop"

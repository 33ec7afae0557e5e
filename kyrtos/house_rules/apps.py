from django.apps import AppConfig


class HouseRulesConfig(AppConfig):
    name = "kyrtos.house_rules"

from django.apps import AppConfig


class AccountsConfig(AppConfig):
    name = "kyrtos.accounts"
    label = "shop"  # databases in use know the user model by it, and Django cannot rename that

from django.apps import AppConfig


class AccountsConfig(AppConfig):
    name = "kyrtos.accounts"
    label = "shop"  # databases in use know the user model by it, and Django cannot rename that

    def ready(self) -> None:
        """Sign-ins are noted from the first one on."""
        import kyrtos.accounts.audit  # noqa: F401

from django.apps import AppConfig


class CustomersConfig(AppConfig):
    name = "kyrtos.customers"

    def ready(self) -> None:
        """Links to records that were merged lead on to those that stay."""
        from django.urls import reverse

        from kyrtos.accounts import whose
        from kyrtos.customers.records import gone_into
        from kyrtos.shops.models import Shop

        def place_of(kind: str) -> whose.PlaceOf:
            def place(shop: Shop, number: int) -> str:
                into = gone_into(shop, kind, number)
                return "" if into is None else reverse(kind, args=[into])

            return place

        whose.MOVED |= {"customer_id": place_of("customer"), "site_id": place_of("site")}

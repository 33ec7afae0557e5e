from django.urls import path
from django.views.generic import RedirectView

from kyrtos.calculation_review import views

urlpatterns = [
    path("calculation-review/", views.review, name="calculation-review"),
    # people have the old address in their bookmarks
    path(
        "second-look/",
        RedirectView.as_view(pattern_name="calculation-review", query_string=True),
    ),
    path("calculation-review/sheet/", views.take_sheet, name="calculation-review-sheet"),
]

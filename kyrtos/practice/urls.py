from django.urls import path

from kyrtos.practice import views

urlpatterns = [
    path("second-look/", views.second_look, name="second-look"),
    path("second-look/sheet/", views.take_sheet, name="second-look-sheet"),
]

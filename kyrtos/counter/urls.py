from django.urls import path

from kyrtos.counter import views

urlpatterns = [
    path("counter/", views.counter, name="counter"),
    path("counter/sold/", views.sold, name="counter-sold"),
    path("counter/size/", views.size_it, name="counter-size"),
]

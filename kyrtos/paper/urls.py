from django.urls import path

from kyrtos.paper import views

urlpatterns = [
    path("issue/", views.issue, name="issue-paper"),
    path("<int:number>/", views.paper, name="paper"),
]

from django.urls import path

from kyrtos.house_rules import views

urlpatterns = [
    path("", views.rules, name="rules"),
    path("<slug:rule_id>/", views.rule, name="rule"),
]

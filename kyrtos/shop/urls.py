from django.contrib.auth.views import LoginView, LogoutView
from django.urls import path

from kyrtos.shop import views

urlpatterns = [
    path(
        "sign-in/",
        LoginView.as_view(template_name="shop/sign_in.html", redirect_authenticated_user=True),
        name="sign-in",
    ),
    path("sign-in/over/", views.sign_in_over, name="sign-in-over"),
    path("sign-in/demo/", views.demo_sign_in, name="demo-sign-in"),
    path("rules/", views.rules, name="rules"),
    path("rules/<slug:rule_id>/", views.rule, name="rule"),
    path("sign-out/", LogoutView.as_view(), name="sign-out"),
]

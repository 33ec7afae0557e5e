from django.contrib.auth.views import LoginView, LogoutView
from django.urls import path

from kyrtos.accounts import views

sign_in = LoginView.as_view(template_name="accounts/sign_in.html", redirect_authenticated_user=True)
urlpatterns = [
    path("sign-in/", sign_in, name="sign-in"),
    path("sign-in/over/", views.sign_in_over, name="sign-in-over"),
    path("sign-in/demo/", views.demo_sign_in, name="demo-sign-in"),
    path("sign-out/", LogoutView.as_view(), name="sign-out"),
]

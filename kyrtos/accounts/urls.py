from django.contrib.auth.views import LoginView, LogoutView
from django.urls import path

from kyrtos.accounts import audit_views, people_views, settings_views, views
from kyrtos.accounts.guessing import SignInForm

sign_in = LoginView.as_view(
    template_name="accounts/sign_in.html",
    authentication_form=SignInForm,
    redirect_authenticated_user=True,
)
urlpatterns = [
    path("sign-in/", sign_in, name="sign-in"),
    path("sign-in/over/", views.sign_in_over, name="sign-in-over"),
    path("sign-in/demo/", views.demo_sign_in, name="demo-sign-in"),
    path("settings/", settings_views.own, name="settings"),
    path("settings/password/", settings_views.password, name="password"),
    path("audit/", audit_views.audit, name="audit"),
    path("people/", people_views.people_page, name="people"),
    path("people/<int:member_id>/", people_views.change_member, name="change-member"),
    path("people/link/<int:invitation_id>/", people_views.withdraw, name="withdraw"),
    path("join/<str:token>/", people_views.join, name="join"),
    path("settings/shop/", settings_views.shop, name="shop-settings"),
    path("sign-out/", LogoutView.as_view(), name="sign-out"),
]

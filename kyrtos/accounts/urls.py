from allauth.account import views as account
from django.urls import include, path, re_path

from kyrtos.accounts import (
    audit_views,
    join_views,
    people_views,
    security_views,
    settings_views,
    views,
)

# Names that begin with account_ and mfa_ are those by which allauth finds its pages.
urlpatterns = [
    path("sign-in/", security_views.SignIn.as_view(), name="sign-in"),
    path("sign-in/", security_views.SignIn.as_view(), name="account_login"),
    path("sign-in/over/", views.sign_in_over, name="sign-in-over"),
    path("sign-in/demo/", views.demo_sign_in, name="demo-sign-in"),
    path("sign-in/again/", account.reauthenticate, name="account_reauthenticate"),
    path("sign-in/inactive/", account.account_inactive, name="account_inactive"),
    path("sign-in/password/", account.password_reset, name="account_reset_password"),
    path("sign-in/password/sent/", account.password_reset_done, name="account_reset_password_done"),
    re_path(
        r"^sign-in/password/new/(?P<uidb36>[0-9A-Za-z]+)-(?P<key>[^/]+)/$",
        account.password_reset_from_key,
        name="account_reset_password_from_key",
    ),
    path(
        "sign-in/password/kept/",
        account.password_reset_from_key_done,
        name="account_reset_password_from_key_done",
    ),
    path("sign-out/", security_views.SignOut.as_view(), name="sign-out"),
    path("sign-out/", security_views.SignOut.as_view(), name="account_logout"),
    path("begin/", join_views.begin, name="begin"),
    path("join/<str:token>/", join_views.join, name="join"),
    path("settings/", settings_views.own, name="settings"),
    path("settings/password/", settings_views.password, name="password"),
    path("settings/signing-in/", security_views.security, name="security"),
    path("settings/signing-in/address/", security_views.address, name="own-address"),
    path("address/<str:key>/", security_views.confirm_address, name="confirm-address"),
    path("settings/signing-in/steps/", include("allauth.mfa.urls")),
    path("settings/signing-in/end/", security_views.end_sessions, name="end-sessions"),
    path("settings/in/<int:shop_id>/", security_views.change_shop, name="change-shop"),
    path("settings/shop/", settings_views.shop, name="shop-settings"),
    path("people/", people_views.people_page, name="people"),
    path("people/<int:member_id>/", people_views.change_member, name="change-member"),
    path("people/links/withdraw/", people_views.withdraw_all, name="withdraw-all"),
    path("people/link/<int:invitation_id>/", people_views.withdraw, name="withdraw"),
    path("audit/", audit_views.audit, name="audit"),
]

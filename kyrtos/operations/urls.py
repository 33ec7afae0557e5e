from django.urls import path

from kyrtos.operations import health, person_data, views

urlpatterns = [
    path("health", health.health, name="health"),
    path("health/web", health.web, name="health-web"),
    path("running/", views.running, name="running"),
    path("running/<int:task>/again/", views.try_again, name="try-again"),
    path("back-ups/", views.back_ups, name="back-ups"),
    path("catalogue/pumps.xlsx", views.export_xlsx, name="export-xlsx"),
    path("shop-file/", views.take_shop_file, name="take-shop-file"),
    path("shop-file/new/", views.make_shop_file, name="make-shop-file"),
    path("shop-file/<int:file_id>/", views.shop_file, name="file"),
    path("shop-file/<int:file_id>/content/", views.shop_file_content, name="file-content"),
    path("settings/signing-in/data.json", person_data.own_data, name="own-data"),
    path("people/<int:member_id>/data.json", person_data.member_data, name="member-data"),
]

from django.urls import path, re_path

from kyrtos.customers import merge_views, site_views, views

urlpatterns = [
    path("customers/", views.customer_list, name="customers"),
    path("customers/new/", views.edit, name="new-customer"),
    path("customers/import/", views.bring_in, name="import-customers"),
    re_path(r"^customers\.(?P<kind>csv|vcf)$", views.export, name="export-customers"),
    path("customers/<int:customer_id>/", views.customer, name="customer"),
    path("customers/<int:customer_id>/edit/", views.edit, name="edit-customer"),
    path("customers/<int:customer_id>/merge/", merge_views.customer, name="merge-customer"),
    path("customers/merges/<int:merge_id>/undo/", merge_views.undo, name="undo-merge"),
    path("customers/<int:customer_id>/forget/", views.forget, name="forget-customer"),
    re_path(
        r"^customers/(?P<customer_id>\d{1,17})/card\.(?P<kind>vcf)$", views.export, name="card"
    ),
    path("customers/<int:customer_id>/sites/new/", site_views.edit, name="new-site"),
    path("sites/<int:site_id>/", site_views.site, name="site"),
    path("sites/<int:site_id>/edit/", site_views.edit, name="edit-site"),
    path("sites/<int:site_id>/merge/", merge_views.site, name="merge-site"),
    path("sites/<int:site_id>/files/", site_views.add_file, name="add-site-file"),
    path("sites/files/<uuid:file_id>/", site_views.file, name="site-file"),
    path("held/<str:key>/", site_views.held_file, name="held-file"),
    path("sites/files/<uuid:file_id>/remove/", site_views.remove_file, name="remove-site-file"),
]

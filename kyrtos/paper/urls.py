from django.urls import path, re_path

from kyrtos.paper import views

urlpatterns = [
    path("site-sheet.pdf", views.site_sheet, name="site-sheet"),
    path("issue/", views.issue, name="issue-paper"),
    re_path(r"^wanted\.(?P<kind>csv|txt)$", views.specification_file, name="specification"),
    re_path(r"^head\.(?P<kind>csv|xlsx)$", views.tape_file, name="tape-file"),
    re_path(r"^picture\.(?P<kind>svg|png)$", views.picture_file, name="picture-file"),
    re_path(
        r"^run-(?P<code>[a-z_]{1,30})\.(?P<kind>csv|svg|png)$", views.run_file, name="run-file"
    ),
    re_path(r"^basin\.(?P<kind>pdf|svg)$", views.basin_order, name="basin-order"),
    path("<int:number>/", views.paper, name="paper"),
]

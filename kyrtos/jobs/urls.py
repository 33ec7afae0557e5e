from django.urls import path

from kyrtos.jobs import views

urlpatterns = [
    path("", views.job_list, name="job-list"),
    path("jobs/new/", views.new, name="new-job"),
    path("jobs/new/told/", views.told_job, name="told-job"),
    path("jobs/recheck/", views.recheck, name="recheck"),
    path("jobs/recheck/now/", views.recheck_now, name="recheck-now"),
    path("jobs/<uuid:job_id>/archive/", views.archive, name="archive-job"),
    path("jobs/<uuid:job_id>/notes/", views.notes, name="job-notes"),
    path("jobs/upload/", views.upload, name="upload-job"),
]

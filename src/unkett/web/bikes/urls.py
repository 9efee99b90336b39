from django.urls import path

from unkett.web.bikes import views

app_name = "bikes"
urlpatterns = [
    path("", views.yard_page, name="yard"),
    path("bikes/add/", views.add, name="bike-add"),
    path("bikes/<int:bike_id>/", views.stand, name="stand"),
    path("bikes/<int:bike_id>/measure/", views.measure, name="part-measure"),
    path("bikes/<int:bike_id>/keep/<slug:name>/", views.keep, name="typed-keep"),
    path("bikes/<int:bike_id>/cut/", views.cut, name="steerer-cut"),
    path("bikes/<int:bike_id>/work/<slug:page>/", views.work, name="work"),
    path("bikes/<int:bike_id>/build.json", views.build_file, name="build-file"),
]

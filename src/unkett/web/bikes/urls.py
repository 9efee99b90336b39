from django.urls import path

from unkett.web.bikes import intake_views, part_views, views

app_name = "bikes"
urlpatterns = [
    path("", views.yard_page, name="yard"),
    path("bikes/new/", intake_views.new, name="intake-new"),
    path("bikes/<int:bike_id>/intake/<slug:name>/", intake_views.step, name="intake-step"),
    path("bikes/add/", views.add, name="bike-add"),
    path("bikes/<int:bike_id>/", views.stand, name="stand"),
    path("bikes/<int:bike_id>/measure/", views.measure, name="part-measure"),
    path("bikes/<int:bike_id>/keep/<slug:name>/", views.keep, name="typed-keep"),
    path("bikes/<int:bike_id>/parts/", part_views.open_slot, name="part-open"),
    path("bikes/<int:bike_id>/parts/<slug:slot>/", part_views.part, name="part-edit"),
    path("bikes/<int:bike_id>/parts/<slug:slot>/fill/", part_views.fill, name="part-fill"),
    path("bikes/<int:bike_id>/parts/<slug:slot>/off/", part_views.off, name="part-off"),
    path("bikes/<int:bike_id>/parts/<slug:slot>/nothing/", part_views.nothing, name="part-nothing"),
    path("bikes/<int:bike_id>/parts/<slug:slot>/move/", part_views.move, name="part-move"),
    path("bikes/<int:bike_id>/copy/", part_views.copy, name="bike-copy"),
    path("bikes/<int:bike_id>/undo/", part_views.undo, name="bike-undo"),
    path("bikes/<int:bike_id>/cut/", views.cut, name="steerer-cut"),
    path("bikes/<int:bike_id>/work/<slug:page>/", views.work, name="work"),
    path("bikes/<int:bike_id>/build.json", views.build_file, name="build-file"),
]

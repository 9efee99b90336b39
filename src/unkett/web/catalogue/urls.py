from django.urls import path

from unkett.web.catalogue import views

app_name = "catalogue"
urlpatterns = [
    path("catalogue/", views.parts, name="parts"),
    path("catalogue/<int:part_id>/", views.part, name="part"),
]

from django.urls import path

from unkett.web.measure import views

app_name = "measure"
urlpatterns = [
    path("measure/", views.sorts, name="sorts"),
    path("measure/<slug:kind>/", views.sort, name="sort"),
    path("measure/<slug:kind>/put/", views.put, name="found-put"),
]

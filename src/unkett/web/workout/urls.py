from django.urls import path

from unkett.web.workout import views

app_name = "workout"
urlpatterns = [
    path("work-out/", views.names, name="names"),
    path("work-out/<slug:name>/", views.one, name="one"),
]

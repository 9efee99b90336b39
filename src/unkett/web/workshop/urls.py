from django.urls import path

from unkett.web.workshop import views

app_name = "workshop"
urlpatterns = [
    path("sign-in/", views.sign_in, name="sign-in"),
    path("sign-out/", views.sign_out, name="sign-out"),
    path("units/", views.units, name="own-units"),
    path("log/", views.log, name="log-list"),
]

"""Every address of the application."""

from django.urls import include, path

urlpatterns = [
    path("", include("unkett.web.bikes.urls")),
    path("", include("unkett.web.plans.urls")),
    path("", include("unkett.web.catalogue.urls")),
    path("", include("unkett.web.measure.urls")),
    path("", include("unkett.web.workout.urls")),
    path("", include("unkett.web.rulebook.urls")),
    path("", include("unkett.web.workshop.urls")),
]

handler404 = "unkett.web.site.errors.not_found"
handler403 = "unkett.web.site.errors.forbidden"
handler400 = "unkett.web.site.errors.bad_request"
handler500 = "unkett.web.site.errors.broken"

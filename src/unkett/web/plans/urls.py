from django.urls import path

from unkett.web.plans import views

app_name = "plans"
urlpatterns = [
    path("bikes/<int:bike_id>/plans/", views.start, name="plan-start"),
    path("plans/<int:plan_id>/", views.show, name="show"),
    path("plans/<int:plan_id>/parts/<slug:slot>/", views.drawer, name="drawer"),
    path("plans/<int:plan_id>/parts/<slug:slot>/swap/", views.swap, name="part-swap"),
    path("plans/<int:plan_id>/parts/<slug:slot>/empty/", views.empty, name="slot-empty"),
    path("plans/<int:plan_id>/parts/<slug:slot>/take-back/", views.take_back, name="change-take-back"),
    path("plans/<int:plan_id>/name/", views.rename, name="plan-name"),
    path("plans/<int:plan_id>/drop/", views.drop, name="plan-drop"),
    path("plans/<int:plan_id>/take-up/", views.take_up, name="plan-take-up"),
    path("plans/<int:plan_id>/work/<slug:page>/", views.work, name="work"),
    path("plans/<int:plan_id>/build.json", views.build_file, name="build-file"),
]

from django.urls import path

from unkett.web.rulebook import views

app_name = "rulebook"
urlpatterns = [
    path("rules/", views.book, name="book"),
    path("rules/schema.json", views.schema, name="schema"),
    path("rules/settings/", views.settings_page, name="settings"),
    path("rules/settings/change/", views.change, name="setting-change"),
    path("rules/names/", views.names, name="names"),
    path("rules/names/add/", views.add_name, name="name-add"),
    path("rules/names/<int:name_id>/remove/", views.remove_name, name="name-remove"),
    path("rules/tables/<slug:name>/", views.standard, name="table"),
    path("rules/<slug:rule_id>/", views.rule, name="rule"),
]

"""The desk as Django knows it: it has commands and no tables."""

from django.apps import AppConfig


class DeskConfig(AppConfig):
    name = "fjeld.web.desk"
    label = "desk"

"""The user interface application."""

from django.apps import AppConfig


class UiConfig(AppConfig):
    name = "fjeld.web.ui"
    label = "ui"

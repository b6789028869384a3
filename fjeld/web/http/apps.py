"""The wire as Django knows it: it has tags for templates and no tables."""

from django.apps import AppConfig


class HttpConfig(AppConfig):
    name = "fjeld.web.http"
    label = "http"

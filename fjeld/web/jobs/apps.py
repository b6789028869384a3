"""The jobs application."""

from django.apps import AppConfig


class JobsConfig(AppConfig):
    name = "fjeld.web.jobs"
    label = "jobs"

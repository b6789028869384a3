"""The accounts application."""

from django.apps import AppConfig


class AccountsConfig(AppConfig):
    name = "fjeld.web.accounts"
    label = "accounts"

"""What is no password."""

from __future__ import annotations

from django.contrib.auth.base_user import AbstractBaseUser
from django.core.exceptions import ValidationError


class NoBlanks:
    """A password is made of more than blanks, and of more than one sign over and over."""

    def validate(self, password: str, user: AbstractBaseUser | None = None) -> None:
        """Raises ``ValidationError`` in words."""
        if len({*password.strip()}) < 3:
            raise ValidationError(self.get_help_text(), code="password_blank")

    def get_help_text(self) -> str:
        return "Blanks, or one sign over and over, are no password."

"""Django's command line for this project."""

import os
import sys

from django.core.management import execute_from_command_line

if __name__ == "__main__":
    # What is stored is for this account of the machine alone, the database as the key.
    os.umask(0o077)
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "fjeld.web.settings")
    execute_from_command_line(sys.argv)

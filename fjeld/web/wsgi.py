"""The WSGI application."""

import os
import sys

from django.core.wsgi import get_wsgi_application

# A poll is not to wait long behind a proof that another thread works out.
sys.setswitchinterval(0.0005)
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "fjeld.web.settings")
application = get_wsgi_application()

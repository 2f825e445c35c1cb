"""The ASGI application."""

import os

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.settings")

from django.core.asgi import get_asgi_application  # noqa: E402 (settings come first)

application = get_asgi_application()

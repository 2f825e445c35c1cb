"""The ASGI application."""

import gc
import os

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.settings")

from django.core.asgi import get_asgi_application  # noqa: E402 (settings come first)

application = get_asgi_application()

# What is loaded now stays; looking through all of it for garbage in the middle of an answer costs a tenth of a second each time.
gc.collect()
gc.freeze()
gc.set_threshold(50_000, 20, 50)

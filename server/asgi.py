"""The ASGI application."""

import gc
import os
from typing import cast

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.settings")

import tempfile  # noqa: E402 (settings come first)

from django.conf import settings  # noqa: E402
from django.core.asgi import get_asgi_application  # noqa: E402

# Bodies on their way lie where what they bring will lie: there is room, and nobody else looks in.
tempfile.tempdir = str(settings.FILE_UPLOAD_TEMP_DIR)
django_application = get_asgi_application()

from server.limits import Application, BodyLimits  # noqa: E402 (apps come first)

application = BodyLimits(cast(Application, django_application))

# What is loaded now stays; looking through all of it for garbage in the middle of an answer costs a tenth of a second each time.
gc.collect()
gc.freeze()
gc.set_threshold(50_000, 20, 50)

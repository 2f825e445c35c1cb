"""Write the API's OpenAPI document to web/openapi.json, from which the typed client is generated."""

import json
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand

from server.urls import api


class Command(BaseCommand):
    """`manage.py api_document`, for developers after a change of the API."""

    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        """Write it."""
        (settings.ROOT / "web" / "openapi.json").write_text(json.dumps(api.get_openapi_schema(), indent=1) + "\n")

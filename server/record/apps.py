from django.apps import AppConfig
from django.utils.module_loading import autodiscover_modules


class RecordConfig(AppConfig):
    """Records, and finding whoever keeps something of them."""

    name = "server.record"

    def ready(self) -> None:
        """Each app's module `purge` says what a strike takes out of it, its module `resting` what rests on lines."""
        autodiscover_modules("purge", "resting")

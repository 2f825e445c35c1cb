from django.apps import AppConfig


class PipelineConfig(AppConfig):
    """How far the work on meetings has come, and queueing it."""

    name = "server.pipeline"

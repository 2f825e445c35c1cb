from django.apps import AppConfig


class PipelineConfig(AppConfig):
    """Where Procrastinate finds the tasks."""

    name = "server.pipeline"

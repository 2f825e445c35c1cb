"""Where Procrastinate finds the task."""

from server.capture.live import listen

__all__ = ["listen"]

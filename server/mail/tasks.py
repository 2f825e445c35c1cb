"""Where Procrastinate finds the task."""

from server.mail.post import send_letter

__all__ = ["send_letter"]

"""Where Procrastinate finds the task."""

from server.rights.actions.erase_person import go_on

__all__ = ["go_on"]

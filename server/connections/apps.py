from django.apps import AppConfig


class ConnectionsConfig(AppConfig):
    """Hears what is new in meetings, and who leaves."""

    name = "server.connections"

    def ready(self) -> None:
        """What goes, goes because something is new."""
        from server import notify
        from server.accounts.signals import leaving
        from server.connections.actions.connect import hand_over
        from server.connections.rules import hear

        notify.HEARD.append(hear)
        leaving.connect(hand_over, dispatch_uid="connections of a member", weak=False)

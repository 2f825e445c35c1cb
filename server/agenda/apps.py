from django.apps import AppConfig


class AgendaConfig(AppConfig):
    """A meeting of a series has its standing agenda, unless it has one of its own."""

    name = "server.agenda"

    def ready(self) -> None:
        """Hear of meetings that come into a series."""
        from server.agenda.actions.run_agenda import take_standing
        from server.sharing.usual import came_into_series

        came_into_series.connect(take_standing, dispatch_uid="standing agenda", weak=False)

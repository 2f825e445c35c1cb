from django.apps import AppConfig


class MeetingsConfig(AppConfig):
    """Meetings learn of those who join a workspace."""

    name = "server.meetings"

    def ready(self) -> None:
        """Whoever joins is tied to their person."""
        from server.accounts.models import User, Workspace
        from server.accounts.signals import joined
        from server.meetings.people import link_person

        def tie(sender: object, user: User, workspace: Workspace, **_: object) -> None:
            link_person(user, workspace)

        joined.connect(tie, dispatch_uid="person of a user", weak=False)

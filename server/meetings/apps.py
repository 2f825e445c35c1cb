from django.apps import AppConfig


class MeetingsConfig(AppConfig):
    """Meetings learn of those who join a workspace, and who leave it."""

    name = "server.meetings"

    def ready(self) -> None:
        """Whoever joins is tied to their person."""
        from server.accounts.models import Membership, User, Workspace
        from server.accounts.signals import joined, leaving
        from server.meetings.leaving import hand_over
        from server.meetings.people import link_person

        def tie(sender: object, user: User, workspace: Workspace, **_: object) -> None:
            link_person(user, workspace)

        def untie(sender: object, membership: Membership, heir: Membership | None, **_: object) -> None:
            hand_over(membership, heir)

        joined.connect(tie, dispatch_uid="person of a user", weak=False)
        leaving.connect(untie, dispatch_uid="meetings of a member", weak=False)

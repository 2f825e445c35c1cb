from django.apps import AppConfig


class ExcerptsConfig(AppConfig):
    """Excerpts go over to the heir of whoever leaves."""

    name = "server.excerpts"

    def ready(self) -> None:
        """Without an heir they stay as they are."""
        from server.accounts.models import Membership
        from server.accounts.signals import leaving
        from server.excerpts.models import Excerpt, Sequence

        def hand_over(sender: object, membership: Membership, heir: Membership | None, **_: object) -> None:
            if heir:
                Excerpt.objects.filter(meeting__workspace=membership.workspace_id, user=membership.user_id).update(user=heir.user)
                Sequence.objects.filter(workspace=membership.workspace_id, user=membership.user_id).update(user=heir.user)

        leaving.connect(hand_over, dispatch_uid="excerpts of a member", weak=False)

from django.apps import AppConfig


class ClerkConfig(AppConfig):
    """A clerk that others want as well stays, whoever leaves."""

    name = "server.clerk"

    def ready(self) -> None:
        """It is then there for another of those who want it, or for the heir."""
        from server.accounts.models import Membership
        from server.accounts.signals import leaving
        from server.clerk.models import Visit

        def ask_for_another(sender: object, membership: Membership, heir: Membership | None, **_: object) -> None:
            for visit in Visit.objects.filter(asked_by=membership):
                other = visit.wanted_by.exclude(pk=membership.pk).order_by("pk").first() or heir
                if other:
                    visit.wanted_by.add(other)
                    Visit.objects.filter(pk=visit.pk).update(asked_by=other)

        leaving.connect(ask_for_another, dispatch_uid="visits of a member", weak=False)

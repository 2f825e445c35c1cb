from django.apps import AppConfig


class LedgerConfig(AppConfig):
    """What somebody jots down is in the ledger at once; what is read, once the meeting is followed."""

    name = "server.ledger"

    def ready(self) -> None:
        """Hear of what is jotted down."""
        from server.ledger.follow import take_jotted
        from server.minutes.signals import jotted

        jotted.connect(take_jotted, dispatch_uid="jotted into the ledger", weak=False)

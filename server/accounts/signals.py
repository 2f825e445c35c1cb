"""What happens to accounts, for the apps behind this one."""

from django.dispatch import Signal

joined = Signal()
"""A user has a place in a workspace now, by an invitation to their own address or by founding it: `user`, `workspace`."""
leaving = Signal()
"""A member is about to lose their place, in the transaction that is open: `membership`, and `heir`, the membership to which what was theirs goes,
or None where it stays as it is."""

"""What happens to accounts, for the apps behind this one."""

from django.dispatch import Signal

joined = Signal()
"""A user has a place in a workspace now, by an invitation to their own address or by founding it: `user`, `workspace`."""

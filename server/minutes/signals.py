"""What happens to findings, for the apps behind this one."""

from django.dispatch import Signal

jotted = Signal()
"""Somebody has written an action down by hand, in the transaction that is open: `finding`."""

"""The kinds of outside systems there are. To add one: its file, and its name here (`docs/connections.md`)."""

from server.connections.kinds import chat, customers, folder, store, tracker, webhook
from server.connections.kinds.base import Kind

KINDS: dict[str, type[Kind]] = {kind.name: kind for kind in (tracker.Tracker, chat.Chat, customers.Customers, folder.Folder, store.Store, webhook.Webhook)}
"""Identifier → kind, in the order in which they are offered."""

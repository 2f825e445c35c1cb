"""Calendars: where a member's meetings are planned, looked at every few minutes."""

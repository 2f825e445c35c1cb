"""A conference for one machine: rooms with a lobby, a roster, chat, screens and sound, over the open protocols of the web.

`python -m standins.conference --port N [--voices FILE]`. The protocol is written down in `docs/conference.md`: sound and screens by WebRTC, agreed
on over WHIP (RFC 9725) and WHEP; what happens in a room as JSON over a WebSocket.
"""

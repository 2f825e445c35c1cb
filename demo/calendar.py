"""What stands in the demo's calendar, around whatever day it is. All made up."""

from __future__ import annotations

from datetime import date, datetime, time, timedelta
from zoneinfo import ZoneInfo

from demo.people import ZONE
from standins.calendar import Engagement

_MAREN = ("Maren Tollefsen", "maren@larkmoor.example", "ACCEPTED")
_IDRIS = ("Idris Quaye", "idris@larkmoor.example", "ACCEPTED")
_PAVEL = ("Pavel Drozd", "pavel@larkmoor.example", "ACCEPTED")
_YUKI = ("Yuki Hanamori", "yuki@larkmoor.example", "TENTATIVE")
_NERYS = ("Nerys Vaughan-Pryce", "nerys@larkmoor.example", "NEEDS-ACTION")
_GWEN = ("Gwen Castellow", "gwen@castellow.example", "ACCEPTED")
_ANSELM = ("Anselm Odukoya", "anselm@odukoya-heat.example", "ACCEPTED")
_LUCIA = ("Lucía Ferreiro", "lucia@viveiros-ferreiro.example", "NEEDS-ACTION")


def engagements(today: date, conference: str) -> list[Engagement]:
    """The weeks around a day: what recurs begins four weeks before it. conference: address of the one that the garden's calls are held in."""

    def at(days: int, clock: str) -> str:
        return datetime.combine(today + timedelta(days=days), time.fromisoformat(clock), ZoneInfo(ZONE)).isoformat()

    return [
        Engagement(
            "morning-round",
            "Morning round",
            at(-28, "08:15"),
            15,
            rule="FREQ=DAILY",
            people=[_MAREN, _IDRIS, _PAVEL],
            place="Potting shed",
        ),
        Engagement(
            "glazing",
            "Glazing call: palm house",
            at(-28, "10:00"),
            45,
            rule="FREQ=WEEKLY",
            people=[_GWEN, _MAREN, _IDRIS],
            text=f"Panes delivered, panes broken, what is next.\n\nJoin the call: {conference}/join/palm-house\nPasscode: 4711",
        ),
        Engagement(
            "heating",
            "Heating: flow temperatures",
            at(0, "10:30"),
            30,
            people=[_ANSELM, _MAREN, _PAVEL],
            conference=f"{conference}/join/heating",
        ),
        Engagement("idris", "Maren and Idris", at(-28, "13:30"), 30, rule="FREQ=WEEKLY", people=[_MAREN, _IDRIS], private=True),
        Engagement(
            "seedlings",
            "Seedlings from the nursery",
            at(0, "15:00"),
            40,
            zone="Europe/Madrid",
            people=[_LUCIA, _MAREN, _NERYS, _YUKI],
            text="Únete a la llamada: https://sala.viveiros-ferreiro.example/join/semillas\nCódigo de acceso: helecho9",
        ),
        Engagement("visitors", "Signs for the closed paths", at(1, "11:00"), 30, people=[_YUKI, _MAREN], place="Gate house"),
        Engagement("board", "Board: the reopening", at(3, "17:00"), 90, people=[_NERYS, _MAREN, _YUKI], place="Orangery"),
    ]

"""Who can sign in to the demo, and who else is in it. All made up."""

WORKSPACE = "Larkmoor Botanic Garden"
PASSWORD = "wet slate and lichen"

USERS = [
    # address, name, role
    ("maren@larkmoor.example", "Maren Tollefsen", "owner"),
    ("idris@larkmoor.example", "Idris Quaye", "member"),
    ("yuki@larkmoor.example", "Yuki Hanamori", "member"),
    ("nerys@larkmoor.example", "Nerys Vaughan-Pryce", "admin"),
    ("gwen@castellow.example", "Gwen Castellow", "guest"),
]
SIGN_INS = [
    ("maren@larkmoor.example", "operations lead, owner of the workspace"),
    ("idris@larkmoor.example", "head gardener, member: does not see the one-to-one"),
    ("yuki@larkmoor.example", "visitor services, member: does not see the interview"),
    ("gwen@castellow.example", "glazing contractor, guest: sees only the calls she is let in to"),
]
OTHERS = [
    # name, address, organisation
    ("Tobias Renn", "tobias@larkmoor.example", "Larkmoor Botanic Garden"),
    ("Beatriz Lavandeira", "beatriz@larkmoor.example", "Larkmoor Botanic Garden"),
    ("Farid Sattari", "farid@larkmoor.example", "Larkmoor Botanic Garden"),
    ("Pavel Drozd", "pavel@larkmoor.example", "Larkmoor Botanic Garden"),
    ("Anselm Odukoya", "anselm@odukoya-heat.example", "Odukoya Heating"),
    ("Lucía Ferreiro", "lucia@viveiros-ferreiro.example", "Viveiros Ferreiro"),
    ("Rowan Ekdahl", "rowan.ekdahl@post.example", ""),
]
# The word list of the workspace: as it is written | how it sounds | what it is mistaken for.
WORDS = [
    "Jubaea | | that you be as",
    "Brahea",
    "Livistona",
    "Dewline | dew line",
    "cycads | sigh cads",
    "accession list",
    "Beatriz | bee a trees, bee tris",
    "Nerys",
    "Colm",
    "Gwen",
    "Tobias | | to bias",
    "Idris",
    "Anselm",
    "Pavel",
    "Larkmoor",
]
ZONE = "Europe/London"
# Maren's calendar at the calendar server that `up` starts.
CALENDAR = {"account": "maren", "password": "cold frame and cloche", "title": "Garden works"}
# The folder that `up` serves, for recordings to be put into.
FOLDER = {"account": "garden", "password": "clover"}
# Mail to the clerk goes to this domain.
MAIL_DOMAIN = "post.larkmoor.example"
# What the telephone system that `up` starts signs with, and the key that it is connected under.
TELEPHONE = {"id": "6f1d0c0e-9d3a-4f7e-8a55-3f0f6f1c2b10", "name": "Front desk", "secret": "whsec_Y29sZCBmcmFtZSBhbmQgY2xvY2hl"}
# Meeting → whose voice is which. What is left out is for the reader to name.
VOICES = {
    "01-works-meeting-scaffold": {"A": "Maren Tollefsen", "C": "Idris Quaye"},
    "04-frost-night-review": {"A": "Maren Tollefsen", "B": "Anselm Odukoya", "C": "Idris Quaye"},
    "08-heating-call": {"A": "Maren Tollefsen", "B": "Pavel Drozd", "C": "Anselm Odukoya"},
}
# Who says who somebody is, as AFTERSHOWER_SIGN_IN has it without the address.
IDENTITY = ("larkmoor", "Larkmoor's front gate", "aftershower", "three-frogs-under-one-leaf")
# Outside systems that `up` starts, each with the token of its connection.
OUTSIDE = {"tracker": "drip-tray-7", "chat": "wet-leaf-12", "customers": "brass-tap-3"}

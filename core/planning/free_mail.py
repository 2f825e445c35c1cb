"""Domains under which anybody has an address, so that they say nothing of where somebody belongs (common practice; from memory)."""

FREE = frozenset(
    "gmail.com googlemail.com outlook.com hotmail.com hotmail.co.uk hotmail.es live.com live.co.uk msn.com yahoo.com yahoo.co.uk yahoo.es yahoo.fr yahoo.de ymail.com "
    "icloud.com me.com mac.com aol.com gmx.com gmx.de gmx.net gmx.at web.de t-online.de freenet.de mail.com mail.ru yandex.ru yandex.com proton.me protonmail.com pm.me tutanota.com "
    "orange.fr wanadoo.fr free.fr laposte.net sfr.fr libero.it virgilio.it tiscali.it terra.es telefonica.net btinternet.com sky.com virginmedia.com talktalk.net "
    "zoho.com fastmail.com hey.com qq.com 163.com 126.com naver.com comcast.net verizon.net att.net free.example".split()
)


def domain_of(address: str) -> str:
    """The domain of an address that says where somebody belongs; "" where it says nothing."""
    domain = address.rpartition("@")[2].strip().lower()
    return "" if domain in FREE or "." not in domain else domain

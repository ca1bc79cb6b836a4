"""Which addresses the reader may connect to: those that whoever runs the server has named, and no others."""

import ipaddress
from fnmatch import fnmatchcase

from django.conf import settings

NO_BRACKETS = str.maketrans("", "", "[]")
REFUSED = "is not an address that this server may read. Whoever runs it lists them in OFEN_INSTRUMENTS"


def is_allowed(link: str, address: str) -> bool:
    """Return whether an address may be read: `10.0.0.0/8:502`, `127.0.0.1:5100-5199`, or a serial port such as `/dev/ttyUSB*`.

    A host is a number: a name could come to mean another machine tomorrow.
    """
    for rule in settings.INSTRUMENTS:
        if link == "line_serial":
            if rule.startswith("/dev/") and "/../" not in address and fnmatchcase(address, rule):
                return True
        elif not rule.startswith("/") and _within(rule, address):
            return True
    return False


def _within(rule: str, address: str) -> bool:
    net, _, ports = rule.rpartition(":")
    host, _, port = address.rpartition(":")
    low, _, high = ports.partition("-")
    try:
        inside = ipaddress.ip_address(host.translate(NO_BRACKETS)) in ipaddress.ip_network(net.translate(NO_BRACKETS))
        return inside and int(low) <= int(port) <= int(high or low)
    except ValueError:
        return False

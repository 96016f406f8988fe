"""The names and addresses by which this machine is reached, for the list of hosts and for the local certificate."""

import ipaddress
import socket
import struct
from contextlib import suppress

_LOOPBACK = ("127.0.0.1", "::1")
# Addresses that belong to nobody; asking the way there sends nothing.
_NOWHERE = ((socket.AF_INET, "192.0.2.1"), (socket.AF_INET6, "2001:db8::1"))
_SIOCGIFADDR = 0x8915


def _of_interfaces() -> set[str]:
    """Return the addresses of the network interfaces, where the system tells them (Linux)."""
    addresses: set[str] = set()
    with suppress(ImportError, OSError), socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        import fcntl

        for _, name in socket.if_nameindex():
            with suppress(OSError):
                answer = fcntl.ioctl(probe.fileno(), _SIOCGIFADDR, struct.pack("256s", name.encode()[:15]))
                addresses.add(socket.inet_ntoa(answer[20:24]))
    return addresses


def own_addresses() -> list[str]:
    """Return the machine's addresses, those of its networks among them."""
    addresses = {*_LOOPBACK, *_of_interfaces()}
    with suppress(OSError):
        addresses |= {str(info[4][0]) for info in socket.getaddrinfo(socket.gethostname(), None)}
    for family, far in _NOWHERE:
        with suppress(OSError), socket.socket(family, socket.SOCK_DGRAM) as probe:
            probe.connect((far, 9))
            addresses.add(str(probe.getsockname()[0]))
    return sorted({address.split("%")[0] for address in addresses}, key=lambda a: (ipaddress.ip_address(a).version, a))


def own_names() -> list[str]:
    """Return the machine's names, in lower case."""
    name = socket.gethostname().lower()
    return sorted({"localhost", name, f"{name.split('.')[0]}.local"} - {""})

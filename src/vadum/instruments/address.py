"""Which addresses an instrument may have: a socket on an allowed host, a serial port of this machine, a simulation."""

import re
from collections.abc import Iterable
from urllib.parse import urlsplit

from vadum.soil.contract.errors import FieldError


def serial_ports() -> set[str]:
    """The serial ports of this machine, by its own list."""
    from serial.tools import list_ports

    return {port.device for port in list_ports.comports()}


def allowed_address(address: str, hosts: Iterable[str]) -> None:
    """Raise FieldError for an address that this laboratory does not allow."""
    if address.startswith("simulated://"):
        return
    if address.startswith("socket://"):
        try:
            parts = urlsplit(address)
            host, port = parts.hostname or "", parts.port
        except ValueError:
            raise FieldError("address", "is no host and port") from None
        if not port:
            raise FieldError("address", "has no port from 1 to 65535")
        if host not in {h.lower() for h in hosts}:
            raise FieldError(
                "address", f"{host[:60]} is not among the hosts allowed for instruments (vadum serve --instrument-host)"
            )
        return
    if address not in serial_ports():
        raise FieldError("address", "this machine has no such serial port")


def why_not(error: BaseException) -> str:
    """What went wrong with a line, in words that name no path of the machine."""
    words = str(getattr(error, "strerror", "") or error)
    words = re.sub(r"(/[\w.\-]+)+|[A-Za-z]:\\\S+", "the port", words)
    return words.replace("'", "")[:120]

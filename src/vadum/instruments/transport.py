"""One transport for all: a serial port or a socket, read line by line, opened again when it is lost."""

import threading
import time
from collections.abc import Callable
from typing import Any, Literal, NamedTuple

import serial

from vadum.instruments.address import why_not
from vadum.instruments.profile import LONGEST_LINE, Figures, LineError, Profile
from vadum.instruments.simulated import simulated_address

State = Literal["connecting", "connected", "silent", "lost"]
POLL_S = 0.1
MOST_BYTES = 4096
FIRST_PAUSE_S, LONGEST_PAUSE_S = 0.2, 2.0


class Heard(NamedTuple):
    """One sample: its number by the instrument, its time in s, its channels, and when it arrived (monotonic, s)."""

    seq: int | None
    seconds: float
    values: dict[str, float]
    arrived: float


class Counts(NamedTuple):
    """What came: samples, lines that were garbage, samples that the numbers say are gone, and times reconnected."""

    samples: int
    garbage: int
    gone: int
    reconnects: int


def open_port(address: str, profile: Profile) -> Any:
    """An open port; raises OSError (pyserial's SerialException is one)."""
    resolved = simulated_address(address)
    if resolved.startswith(("socket://", "loop://")):
        return serial.serial_for_url(resolved, timeout=POLL_S)
    return serial.serial_for_url(resolved, baudrate=profile.baud, timeout=POLL_S)


def available(port: Any) -> bytes:
    """What has come, after waiting for its first byte; nothing within the poll time gives b''.

    Byte by byte: a socket's port that meets the end of its line inside a longer read throws away what it had read.
    """
    came = bytearray(port.read(1))
    if not came:
        return b""
    port.timeout = 0
    try:
        while len(came) < MOST_BYTES and (more := port.read(1)):
            came += more
    except OSError:
        pass  # the end of the line: the next read says so, these bytes are kept
    finally:
        port.timeout = POLL_S
    return bytes(came)


class Link:
    """Reads an instrument on a thread of its own; tells each sample and each change of state."""

    def __init__(
        self,
        address: str,
        profile: Profile,
        on_sample: Callable[[Heard], None],
        on_state: Callable[[State, str], None] = lambda state, why: None,
    ) -> None:
        self.address, self.profile = address, profile
        self._on_sample, self._on_state = on_sample, on_state
        self.state: State = "connecting"
        self.samples = self.garbage = self.gone = self.reconnects = 0
        self._last_seq: int | None = None
        self._began = time.monotonic()
        self._stopping = threading.Event()
        self._port: Any = None
        self._send_lock = threading.Lock()
        self._thread = threading.Thread(target=self._run, name=f"link {address}", daemon=True)

    @property
    def counts(self) -> Counts:
        """What came so far."""
        return Counts(self.samples, self.garbage, self.gone, self.reconnects)

    def start(self) -> "Link":
        """Begin to listen; gives itself back."""
        self._thread.start()
        return self

    def stop(self) -> None:
        """Stop listening and close the port."""
        self._stopping.set()
        if self._thread.is_alive() and threading.current_thread() is not self._thread:
            self._thread.join(timeout=5)

    def command(self, name: str) -> bool:
        """Send one of the profile's commands; whether the instrument has it and is there to hear it."""
        text = self.profile.commands.get(name)
        with self._send_lock:
            if text is None or self._port is None:
                return False
            try:
                self._port.write(text.encode())
            except OSError:
                return False
        return True

    def _tell(self, state: State, why: str = "") -> None:
        if state != self.state:
            self.state = state
            self._on_state(state, why)

    def _run(self) -> None:
        pause, opened = FIRST_PAUSE_S, 0
        while not self._stopping.is_set():
            try:
                port = open_port(self.address, self.profile)
            except (OSError, ValueError) as error:
                self._tell("lost", why_not(error))
                self._stopping.wait(pause)
                pause = min(2 * pause, LONGEST_PAUSE_S)
                continue
            with self._send_lock:
                self._port = port
            opened += 1
            self.reconnects = opened - 1
            pause = FIRST_PAUSE_S
            try:
                self._listen(port)
            except OSError as error:
                self._tell("lost", why_not(error))
            finally:
                with self._send_lock:
                    self._port = None
                port.close()
            self._stopping.wait(FIRST_PAUSE_S)

    def _listen(self, port: Any) -> None:
        """Lines until the port fails or is stopped; raises OSError when it fails."""
        end = self.profile.terminator.encode()
        buffer = b""
        last = time.monotonic()
        while not self._stopping.is_set():
            came = available(port)
            now = time.monotonic()
            if not came:
                if now - last > self.profile.silent_s:
                    self._tell("silent", f"nothing for {self.profile.silent_s:g} s")
                continue
            last = now
            *lines, buffer = (buffer + came).split(end)
            for line in lines:
                self._line(line, now)
            if len(buffer) > LONGEST_LINE:
                self.garbage += 1
                buffer = b""

    def _line(self, line: bytes, now: float) -> None:
        if not line.strip():
            return
        try:
            figures = self.profile.parse(line[-LONGEST_LINE:])
        except LineError:
            self.garbage += 1
            return
        self._tell("connected")
        self._count(figures)
        seconds = figures.seconds if figures.seconds is not None else now - self._began
        self._on_sample(Heard(figures.seq, seconds, figures.values, now))

    def _count(self, figures: Figures) -> None:
        self.samples += 1
        if figures.seq is None:
            return
        if self._last_seq is not None and figures.seq > self._last_seq + 1:
            self.gone += figures.seq - self._last_seq - 1
        self._last_seq = figures.seq

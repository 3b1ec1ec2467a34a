"""Simulated instruments on a real socket, as real ones stand there."""

import contextlib
import random
import socket
import threading
import time
from collections.abc import Iterator
from urllib.parse import parse_qsl, urlsplit

from vadum.instruments.profile import framed
from vadum.instruments.simulated_bodies import BODIES
from vadum.instruments.simulated_setting import Setting, setting


class Simulator:
    """A simulated instrument on a listening socket: every connection hears the same body."""

    def __init__(self, its: Setting, host: str = "127.0.0.1", port: int = 0) -> None:
        self.its = its
        self._dice = random.Random(its.seed)
        self.body = BODIES[its.kind](its, self._dice)
        self.sent = 0
        self.sent_at: dict[int, float] = {}
        self._seconds = 0.0
        self._spoken_s = 0.0
        self._troubled = False
        self._closed = threading.Event()
        self._away_until = 0.0
        self._silent_until = 0.0
        self._connections: list[socket.socket] = []
        self._lock = threading.Lock()
        self._server = socket.create_server((host, port))
        self._server.settimeout(0.1)
        self.port = int(self._server.getsockname()[1])
        self._threads = [threading.Thread(target=work, daemon=True) for work in (self._accept, self._speak)]

    @property
    def address(self) -> str:
        """Where it listens."""
        return f"socket://127.0.0.1:{self.port}"

    def start(self) -> "Simulator":
        """Begin; gives itself back."""
        for thread in self._threads:
            thread.start()
        return self

    def close(self) -> None:
        """End it and all its connections."""
        self._closed.set()
        for thread in self._threads:
            thread.join(timeout=3)
        self._server.close()
        self._drop()

    def _drop(self) -> None:
        with self._lock:
            dropped, self._connections = self._connections, []
        for connection in dropped:
            with contextlib.suppress(OSError):
                connection.shutdown(socket.SHUT_RDWR)
            connection.close()

    def _accept(self) -> None:
        while not self._closed.is_set():
            try:
                connection, _ = self._server.accept()
            except TimeoutError:
                continue
            except OSError:
                return
            if self._spoken_s < self._away_until:
                connection.close()
                continue
            connection.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
            with self._lock:
                self._connections.append(connection)
            threading.Thread(target=self._obey, args=(connection,), daemon=True).start()

    def _obey(self, connection: socket.socket) -> None:
        buffer = b""
        while not self._closed.is_set():
            try:
                came = connection.recv(256)
            except OSError:
                return
            if not came:
                return
            *lines, buffer = (buffer + came).split(b"\n")
            for line in lines:
                self.body.command(line.decode("ascii", "replace").strip())

    def _speak(self) -> None:
        step = 1 / self.its.samples_per_s
        due = time.monotonic()
        while not self._closed.is_set():
            due += step
            self._closed.wait(max(0.0, due - time.monotonic()))
            self.body.advance(step * self.its.speed)
            self._seconds += step * self.its.speed
            self._spoken_s += step
            self._line_trouble()
            if self._spoken_s >= max(self._silent_until, self._away_until):
                self._send()

    def _line_trouble(self) -> None:
        if self._troubled or not self.body.troubled:
            return
        self._troubled = True
        if "drop" in self.its.trouble:
            self._away_until = self._spoken_s + self.its.away_s
            self._drop()
        if "silence" in self.its.trouble:
            self._silent_until = self._spoken_s + self.its.away_s

    def _send(self) -> None:
        self.sent += 1
        line = framed(f"{self.sent} {self._seconds:.3f} {self.body.figures()}")
        if "garbage" in self.its.trouble and self._dice.random() < 0.15:
            line = next(self._rubbish(line)) + line
        self.sent_at[self.sent] = time.monotonic()
        with self._lock:
            connections = list(self._connections)
        for connection in connections:
            try:
                connection.sendall(line)
            except OSError:
                with self._lock, contextlib.suppress(ValueError):
                    self._connections.remove(connection)

    def _rubbish(self, line: bytes) -> Iterator[bytes]:
        """Bytes of no meaning, half a line, or a line with one digit changed."""
        kind = self._dice.randrange(3)
        if kind == 0:
            yield bytes(self._dice.randrange(256) for _ in range(12)).replace(b"\n", b"?") + b"\n"
        elif kind == 1:
            yield line[: len(line) // 2] + b"\n"
        else:
            yield line.replace(b"=", b"=9", 1)


_running: dict[str, Simulator] = {}
_starting = threading.Lock()


def simulated_address(address: str) -> str:
    """`simulated://frame?percent=42` starts that instrument in this process, once, and gives its socket's address."""
    if not address.startswith("simulated://"):
        return address
    with _starting:
        if address not in _running:
            parts = urlsplit(address)
            _running[address] = Simulator(setting({"kind": parts.netloc, **dict(parse_qsl(parts.query))})).start()
        return _running[address].address


def end_simulated(address: str) -> None:
    """End the simulated instrument of that address, if it runs: the next to open it finds a fresh one."""
    with _starting:
        running = _running.pop(address, None)
    if running:
        running.close()

"""Putting the application on the air: one process, or several over one PostgreSQL database."""

import gc
import json
import logging
import os
import sys
import threading
import time
from typing import Any

import typer

from vadum.soil.contract.errors import VadumError

WORKERS_ENV = "VADUM_SERVE"
# How long one thread computes before another may: a reading asks for its turn some twenty times, and at Python's own
# five milliseconds each it would wait a tenth of a second beside any slow page.
SWITCH_S = 0.0005
_BEGUN = time.monotonic()


def config_of(target: Any, host: str, port: int, behind_proxy: tuple[str, ...], **more: Any) -> Any:
    """How the server is set, for one process as for each of several."""
    import uvicorn

    from vadum.web.connections import BACKLOG, BoundedConnection, most_connections

    BoundedConnection.most = most_connections()
    return uvicorn.Config(
        target,
        host=host,
        port=port,
        log_level="warning",
        log_config=None,
        access_log=False,
        backlog=BACKLOG,
        http=BoundedConnection,
        timeout_graceful_shutdown=2,
        timeout_keep_alive=75,  # a call comes every quarter of a minute: it need not open a connection each time
        server_header=False,
        # Who says on whose behalf it asks is believed only where the laboratory put it itself.
        proxy_headers=bool(behind_proxy),
        forwarded_allow_ips=list(behind_proxy),
        **more,
    )


def log_plainly() -> None:
    """Warnings and errors to standard error, in lines of a bounded length."""
    from vadum.web.connections import BoundedFormatter, SameLines

    handler = logging.StreamHandler()
    handler.setFormatter(BoundedFormatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
    handler.addFilter(SameLines())
    logging.basicConfig(level=logging.WARNING, handlers=[handler], force=True)


def run_one(settings: Any, host: str, port: int, probe: str | None, behind_proxy: tuple[str, ...] = ()) -> None:
    """Serve in this process, until it is told to stop."""
    import uvicorn

    from vadum.web.app import create_app

    log_plainly()
    gc.collect()
    gc.freeze()
    gc.enable()
    sys.setswitchinterval(SWITCH_S)
    server = uvicorn.Server(config_of(create_app(settings), host, port, behind_proxy))
    failed: list[str] = []
    if probe:
        threading.Thread(target=_probe, args=(probe, server, failed), daemon=True).start()
    server.run()
    if failed:
        raise VadumError(failed[0])


def run_several(workers: int, asked: dict[str, Any], host: str, port: int, behind_proxy: tuple[str, ...]) -> None:
    """Serve in several processes; one that dies is begun again."""
    from uvicorn.supervisors import Multiprocess

    os.environ[WORKERS_ENV] = json.dumps(asked)
    config = config_of("vadum.commands.serving:worker", host, port, behind_proxy, workers=workers, factory=True)
    log_plainly()
    socket = config.bind_socket()
    try:
        Multiprocess(config, sockets=[socket]).run()
    finally:
        socket.close()


def worker() -> Any:
    """The application of one of several processes, as the command asked for it."""
    from vadum.web.app import create_app
    from vadum.web.settings import Settings

    log_plainly()
    sys.setswitchinterval(SWITCH_S)
    asked: dict[str, Any] = json.loads(os.environ[WORKERS_ENV])
    asked = {name: tuple(value) if isinstance(value, list) else value for name, value in asked.items()}
    return create_app(Settings(**asked))


def _probe(address: str, server: Any, failed: list[str]) -> None:
    """Open the first page as a browser would, say so, and stop: proves that the program comes up."""
    import http.cookiejar
    import urllib.request

    opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(http.cookiejar.CookieJar()))
    while time.monotonic() - _BEGUN < 40:
        try:
            with opener.open(address, timeout=5) as answer:
                text = answer.read().decode()
            if "The river" not in text:
                failed.append("the first page is not the bench")
            else:
                took = time.monotonic() - _BEGUN
                typer.echo(f"probe: the bench answered after {took:.2f} s, {len(text)} characters")
            break
        except OSError:
            time.sleep(0.1)
    else:
        failed.append("no answer within 40 s")
    server.should_exit = True

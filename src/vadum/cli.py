"""The command line: demo, serve, reduce, methods, schema, check, backup, restore, person, instruments."""

import gc
import json
import os
import sys
import tempfile
import time
from pathlib import Path
from typing import Annotated, Any

import typer

from vadum.commands import copies, serving
from vadum.commands.accounts import accounts, made
from vadum.commands.common import DatabaseOption, moment_of, url_of
from vadum.soil.contract.errors import FieldError, VadumError
from vadum.tape.trouble import trouble_of, trouble_words

app = typer.Typer(no_args_is_help=True, add_completion=False, pretty_exceptions_enable=False, help=__doc__)


def main() -> None:
    """Run a command. What the person can mend is one line and exit code 2; a full or locked disk one line and 1."""
    os.umask(0o077)  # what is written is its owner's alone
    try:
        app()
    except VadumError as error:
        typer.echo(f"vadum: {error}", err=True)
        sys.exit(1 if error.__cause__ is not None and trouble_of(error.__cause__) else 2)
    except Exception as error:
        words = trouble_words(error)
        if words is None:
            raise
        typer.echo(f"vadum: {words}", err=True)
        sys.exit(1)


@app.command()
def demo(
    host: str = "127.0.0.1",
    port: int = 8770,
    at: Annotated[str | None, typer.Option(help="freeze the clock at this time")] = None,
    keep: Annotated[Path | None, typer.Option(help="keep the demo's data in this new file")] = None,
    probe: Annotated[bool, typer.Option(help="open the first page, then stop")] = False,
) -> None:
    """The application with the invented job, made anew around now, at a printed loopback address."""
    gc.disable()  # nothing of a start is garbage; looking for it costs a tenth of the time
    from concurrent.futures import ThreadPoolExecutor

    from vadum.demo.people import PASSPHRASE, PEOPLE, stored_passphrase
    from vadum.tape.hashing import hasher

    # The hash is slow on purpose and lets other threads run: it is made while the rest is imported. The thread itself
    # must import nothing (two threads importing one package can see it half made), so its library is loaded first.
    hasher()
    hashing = ThreadPoolExecutor(1).submit(stored_passphrase)
    from vadum.demo.job import build
    from vadum.tape import people
    from vadum.tape.clock import Clock, FrozenClock
    from vadum.tape.database import Database
    from vadum.tape.tables import Person
    from vadum.web.settings import LOOPBACK, Settings

    if keep is not None and keep.exists():
        raise FieldError("--keep", f"{keep.name} exists; the demo writes only a new file")
    moment = moment_of(at)
    clock = FrozenClock(moment) if moment else Clock()
    with tempfile.TemporaryDirectory(prefix="vadum-demo-") as scratch:
        url = f"sqlite:///{keep.absolute() if keep else Path(scratch) / 'demo.db'}"
        database = Database(url)
        database.migrate()
        ids = build(database, clock.now(), hashing.result())
        links = {}
        with database.writing() as session:
            for _, name, initials, role in PEOPLE:
                person = session.get(Person, ids[initials])
                assert person is not None
                token = people.one_time_link(session, person, clock.now())
                links[initials] = (f"http://{host}:{port}/enter/{token}", name, role)
        database.close()
        typer.echo("Vadum, demo: an invented job; nothing here is real, and it is made anew at each start.")
        for link, name, role in links.values():
            typer.echo(f"  {link}   signs in {name}, {role}, once")
        logins = ", ".join(login for login, *_ in PEOPLE)
        typer.echo(f"  or http://{host}:{port} with {logins} and the pass-phrase '{PASSPHRASE}'.  Stop with Ctrl-C.")
        sys.stdout.flush()
        first = next(iter(links.values()))[0]
        settings = Settings(database_url=url, clock=clock, demo=True, hosts=(*LOOPBACK, host))
        serving.run_one(settings, host, port, first if probe else None)


@app.command()
def serve(
    db: DatabaseOption = None,
    host: Annotated[str, typer.Option(help="loopback unless told otherwise")] = "127.0.0.1",
    port: int = 8780,
    secure_cookie: Annotated[bool, typer.Option(help="the cookie travels over HTTPS only")] = False,
    host_name: Annotated[list[str] | None, typer.Option(help="a name that the program answers to")] = None,
    behind_proxy: Annotated[
        list[str] | None, typer.Option(help="the address of a proxy whose forwarded addresses are believed")
    ] = None,
    instrument_host: Annotated[
        list[str] | None, typer.Option(help="a machine that an instrument's socket may stand on")
    ] = None,
    workers: Annotated[int, typer.Option(min=1, max=64, help="processes; several want a PostgreSQL database")] = 1,
) -> None:
    """The application with your own data."""
    from vadum.tape import people
    from vadum.tape.database import Database
    from vadum.tape.hold import Held
    from vadum.web.settings import LOOPBACK, Settings

    url = url_of(db)
    if workers > 1 and url.startswith("sqlite"):
        raise FieldError("--workers", "several processes want a PostgreSQL database (VADUM_DATABASE_URL)")
    database = Database(url)
    try:
        held = database.hold(alone=True)
    except Held as error:
        raise VadumError("another program is running on this database; one at a time") from error
    database.migrate()
    with database.reading() as session:
        if not people.has_manager(session):
            raise VadumError(
                "nobody can manage this laboratory yet. Make a manager first:\n"
                "  vadum person LOGIN --name 'Full Name' --initials XY --role manager"
            )
    database.close()
    if held:
        held.share()
    typer.echo(f"Vadum: http://{host}:{port}   Stop with Ctrl-C.")
    sys.stdout.flush()
    hosts = (*LOOPBACK, host, *(host_name or ()))
    asked: dict[str, Any] = {
        "database_url": url,
        "secure_cookie": secure_cookie,
        "hosts": hosts,
        "instrument_hosts": (*LOOPBACK, *(instrument_host or ())),
    }
    proxies = tuple(behind_proxy or ())
    if workers > 1:
        serving.run_several(workers, asked, host, port, proxies)
    else:
        serving.run_one(Settings(**asked), host, port, None, proxies)


@app.command()
def person(
    login: str,
    name: Annotated[str, typer.Option()],
    initials: Annotated[str, typer.Option()],
    role: Annotated[str, typer.Option(help="technician, checker or manager")] = "technician",
    db: DatabaseOption = None,
) -> None:
    """Make an account. The pass-phrase is asked for, or taken from VADUM_PASSPHRASE."""
    made(login, name, initials, role, url_of(db))


def _load(file: str) -> dict[str, Any]:
    try:
        text = sys.stdin.read() if file == "-" else Path(file).read_text("utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise FieldError("FILE", f"{file} cannot be read: {error}") from None
    try:
        data = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise FieldError("FILE", f"is not JSON: {error}") from None
    if not isinstance(data, dict):
        raise FieldError("FILE", "is not an object with method, school and record")
    unknown = set(data) - {"method", "school", "settings", "record", "now"}
    if unknown:
        raise FieldError(sorted(unknown)[0], "there is no such field; known: method, school, settings, record, now")
    return data


@app.command()
def reduce(file: Annotated[str, typer.Argument(help="a run as JSON, or - for standard input")]) -> None:
    """Reduce a run: {"method", "school", "record"} in, its Outcome as JSON out. `now` is optional, for the advice."""
    from pydantic import ValidationError

    from vadum.soil.register import method

    data = _load(file)
    its = method(str(data.get("method", "")))
    school = its.school(data.get("school"))
    settings = data.get("settings", {})
    record = data.get("record", {})
    for field, value in (("settings", settings), ("record", record)):
        if not isinstance(value, dict):
            raise FieldError(field, "is not an object")
    now = moment_of(data["now"]) if isinstance(data.get("now"), str) else None
    part = "settings"
    try:
        school = type(school).model_validate(school.model_dump() | settings)
        part = "record"
        read = its.Record.model_validate(record)
    except ValidationError as error:
        first = error.errors()[0]
        place = "".join(f"[{p}]" if isinstance(p, int) else f".{p}" for p in first["loc"])
        raise FieldError(f"{part}{place}", first["msg"].removeprefix("Value error, ")) from None
    outcome = its.judge(read, school, now) if now else its.outcome(read, school)
    typer.echo(its.with_uncertainties(read, school, outcome).model_dump_json(indent=1))


@app.command()
def methods() -> None:
    """Every method with its schools."""
    from vadum.soil.register import METHODS

    for m in METHODS.values():
        typer.echo(f"{m.name}: {m.title} ({', '.join(m.standards)})")
        for school in m.schools.values():
            typer.echo(f"  {school.name}: {school.title}. {school.about}")


@app.command()
def schema(name: str) -> None:
    """JSON Schema of a method's record, and its schools with their settings."""
    from vadum.soil.register import method

    its = method(name)
    schools = {s.name: s.model_dump(mode="json") for s in its.schools.values()}
    described = {
        "method": its.name,
        "record": its.Record.model_json_schema(),
        "settings": type(its.school()).model_json_schema(),
        "schools": schools,
    }
    typer.echo(json.dumps(described, indent=1, ensure_ascii=False))


schools = typer.Typer(no_args_is_help=True, help="The laboratory's own schools.")
app.add_typer(schools, name="school")


@schools.command("check")
def check_school(
    file: Annotated[Path, typer.Argument(help="a school's TOML; its folder, or --method, says of which method")],
    method_name: Annotated[str, typer.Option("--method", help="the method, where the folder is not called so")] = "",
) -> None:
    """Read a school's file and try it as the shipped ones are tried; exit code 2 with every fault."""
    from vadum.soil.contract.school import read_school
    from vadum.soil.register import method
    from vadum.soil.school_check import faults

    its = method(method_name or file.resolve().parent.name)
    known = {name: s for name, s in its.schools.shipped.items() if name != file.stem}
    school = read_school(file, type(its.school()), known)
    wrong = faults(its, school)
    for fault in wrong:
        typer.echo(f"{file.name}: {fault}", err=True)
    if wrong:
        raise typer.Exit(2)
    typer.echo(f"{file.name}: {school.title}, a school of {its.title.lower()}: it passes every trial")


copies.add_to(app)
app.add_typer(accounts, name="account")
instruments = typer.Typer(no_args_is_help=True, help="Simulated instruments, profiles, and hearing a line.")
app.add_typer(instruments, name="instruments")


@instruments.command()
def simulate(
    kind: Annotated[str, typer.Option(help="frame, balance or level")] = "frame",
    port: Annotated[int, typer.Option(help="0: any free one")] = 0,
    speed: Annotated[float, typer.Option(help="times faster than in life")] = 1.0,
    trouble: Annotated[str, typer.Option(help="sticking, datum, lifting, drop, garbage, silence; with commas")] = "",
    running: Annotated[bool, typer.Option(help="the frame pushes at once, without being told")] = False,
    seconds: Annotated[float | None, typer.Option(help="end by itself after so long")] = None,
    also: Annotated[list[str] | None, typer.Option("--set", help="NAME=VALUE, such as percent=42")] = None,
) -> None:
    """A simulated instrument on a loopback socket, until Ctrl-C."""
    from vadum.instruments.simulated import Simulator
    from vadum.instruments.simulated_setting import setting

    pairs = {"kind": kind, "speed": str(speed), "trouble": trouble, "running": str(running).lower()}
    for one in also or ():
        name, sign, value = one.partition("=")
        if not sign:
            raise FieldError("--set", f"{one!r} is not NAME=VALUE")
        pairs[name] = value
    simulator = Simulator(setting(pairs), port=port).start()
    typer.echo(f"simulated {kind}: {simulator.address}   Stop with Ctrl-C.")
    sys.stdout.flush()
    try:
        time.sleep(1e9 if seconds is None else seconds)
    except KeyboardInterrupt:
        pass
    finally:
        simulator.close()


@instruments.command()
def profiles() -> None:
    """Every parsing profile: the shipped ones, and those in the folder of VADUM_PROFILES."""
    from vadum.instruments.profile import profiles as known

    for its in known().values():
        units = ", ".join(f"{name} in {channel.unit}" for name, channel in its.channels.items())
        typer.echo(f"{its.name}: {its.title} ({units})")


@instruments.command()
def hear(
    address: Annotated[str, typer.Argument(help="a serial port, or socket://host:port")],
    profile: Annotated[str, typer.Option(help="the parsing profile")] = "frame",
    seconds: Annotated[float, typer.Option(help="how long")] = 10.0,
) -> None:
    """Print what an instrument says, and how its line stands: to try an address and a profile."""
    from vadum.instruments.profile import profile as known
    from vadum.instruments.transport import Heard, Link

    def show(heard: Heard) -> None:
        typer.echo(f"{heard.seconds:10.3f} s  " + "  ".join(f"{k}={v:g}" for k, v in heard.values.items()))

    link = Link(address, known(profile), show, lambda state, why: typer.echo(f"-- {state} {why}")).start()
    time.sleep(seconds)
    link.stop()
    counts = link.counts
    typer.echo(f"{counts.samples} samples, {counts.garbage} lines of garbage, {counts.gone} gone")
    if not counts.samples:
        raise VadumError(f"nothing was heard at {address}")


if __name__ == "__main__":
    main()

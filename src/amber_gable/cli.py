"""The command line: `amber-gable serve | demo | weather | gauge | reckon | contractor | backup | restore | verify`.

Imports are made inside the commands: `weather` must be up in a moment and needs nothing of the
application, and `reckon` nothing of the web.
"""

import json
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Annotated

import typer

app = typer.Typer(help="Measures, specifies, times and records exterior house painting.", no_args_is_help=True, add_completion=False)

Host = Annotated[str, typer.Option(help="Address to listen on.")]


@app.command()
def serve(
    host: Host = "127.0.0.1",
    port: Annotated[int, typer.Option(min=1, max=65535)] = 8000,
    tls: Annotated[bool, typer.Option("--tls", help="Serve HTTPS with a local certificate, made when missing.")] = False,
) -> None:
    """Run the application alone, on the database and weather service that the environment names."""
    from amber_gable.demo.seed import write_samples
    from amber_gable.services.app.settings import read_settings
    from amber_gable.web.app import create_app, end_process, run_until_stopped

    with _plain_faults():
        settings = read_settings()
    # Whoever says where to listen says by which name it is called.
    settings = settings.model_copy(update={"hosts": f"{settings.hosts},{host}"})
    certificate, key = None, None
    with _plain_faults():
        application = create_app(settings)
        application.state.running.samples = write_samples
    if tls:
        from amber_gable.services.app.machine.certificates import local_certificate

        certificate, key = (str(path) for path in local_certificate(settings.data_dir / "tls"))
    typer.echo(f"Amber Gable on {'https' if tls else 'http'}://{host}:{port}")
    if tls:
        _for_phones(host, port, settings.data_dir / "tls")
    try:
        run_until_stopped(application, host=host, port=port, ssl_certfile=certificate, ssl_keyfile=key)
    finally:
        end_process()


def _for_phones(host: str, port: int, folder: Path) -> None:
    """Print the address for phones as a QR code, and how they come to trust it."""
    import segno

    from amber_gable.services.app.machine.addresses import own_addresses
    from amber_gable.services.app.machine.certificates import fingerprint

    reached = [a for a in own_addresses() if ":" not in a and not a.startswith("127.")] if host in ("0.0.0.0", "::") else [host]
    address = f"https://{(reached or ['127.0.0.1'])[0]}:{port}/phone"
    typer.echo(f"\nOn each phone, once: open {address}\nand do what the page says. The authority's SHA-256 fingerprint, to compare:")
    typer.echo(f"  {fingerprint(folder)}\n")
    segno.make(address, error="m").terminal(compact=True)
    if host.startswith("127."):
        typer.echo("Phones reach this machine only with  --host 0.0.0.0")


@contextmanager
def _plain_faults() -> Iterator[None]:
    """End with the message alone where something can be put right."""
    from amber_gable.errors import PlanError

    try:
        yield
    except PlanError as fault:
        typer.echo(str(fault), err=True)
        raise typer.Exit(2) from fault


@app.command()
def weather(
    host: Host = "127.0.0.1",
    port: Annotated[int, typer.Option(min=1, max=65535)] = 8790,
    seed: Annotated[int, typer.Option(help="Which simulated world.")] = 7,
) -> None:
    """Run the weather stand-in: a small simulated forecast service."""
    from amber_gable.standins.weather import serve as serve_weather

    serve_weather(host, port, seed)


@app.command()
def gauge(
    host: Host = "127.0.0.1",
    port: Annotated[int, typer.Option(min=1, max=65535)] = 8791,
    seed: Annotated[int, typer.Option(help="Which simulated world; that of the weather.")] = 7,
    code: Annotated[str, typer.Option(help="What its display shows, for pairing.")] = "4711",
) -> None:
    """Run the gauge stand-in: simulated instruments on a wall. Name it in AMBER_GABLE_GAUGE_URL."""
    from amber_gable.standins.gauge import serve as serve_gauge

    serve_gauge(host, port, seed, code)


@app.command()
def demo(
    host: Host = "127.0.0.1",
    port: Annotated[int, typer.Option(min=1, max=65535)] = 8000,
    data_dir: Annotated[Path, typer.Option(envvar="AMBER_GABLE_DEMO_DATA", help="Where the demonstration keeps its data.")] = Path(
        "data/demo"
    ),
    fresh: Annotated[bool, typer.Option("--fresh", help="Start from new demonstration data.")] = False,
) -> None:
    """Run the demonstration: sample data, weather stand-in and application together."""
    from amber_gable.demo.run import run

    run(host, port, data_dir, fresh=fresh)


@app.command()
def reckon(name: Annotated[str, typer.Argument(help="Which reckoning, for instance dew-point.")]) -> None:
    """Compute one reckoning: a JSON object on standard input, JSON on standard output."""
    from amber_gable.errors import PlanError
    from amber_gable.services.reckonings import find, parse_body
    from amber_gable.services.reckonings import reckon as compute
    from amber_gable.units import in_both

    try:
        entry = find(name)
        answer = compute(entry, parse_body(sys.stdin.buffer.read()))
    except PlanError as fault:
        typer.echo(in_both(json.dumps({"error": str(fault), "field": fault.field}, ensure_ascii=False)), err=True)
        raise typer.Exit(2) from fault
    typer.echo(in_both(json.dumps(answer.model_dump(by_alias=True), ensure_ascii=False)))


@app.command()
def contractor(
    name: Annotated[str, typer.Argument(help="Its name, as AMBER_GABLE_CONTRACTOR will have it.")],
    units: Annotated[str, typer.Option(help="us or metric.")] = "us",
    painter: Annotated[list[str] | None, typer.Option(help="Name of a painter; once for each.")] = None,
) -> None:
    """Write the books of another contractor into the database: each process of `serve` works for one of them."""
    from amber_gable.services.app.machine.opening import add_contractor
    from amber_gable.services.app.settings import read_settings

    with _plain_faults():
        add_contractor(read_settings(), name, units, tuple(painter or ()))
    typer.echo(f'The books of “{name}” are open. Serve it with AMBER_GABLE_CONTRACTOR="{name}".')


@app.command()
def backup(folder: Annotated[Path, typer.Argument(help="Where to make it; each back-up is a folder of its own in there.")]) -> None:
    """Back up the database and the photographs, also while the application serves."""
    from amber_gable.services.app.machine import backup as backups
    from amber_gable.services.app.settings import read_settings

    with _plain_faults():
        made = backups.make(read_settings(), folder)
    typer.echo(f"{made.folder}: {made.photographs} photographs, {made.size_bytes / 1e6:.1f} MB")


@app.command()
def verify(folder: Annotated[Path, typer.Argument(help="A back-up, or a folder of them: then the newest.")]) -> None:
    """Check that a back-up is whole and can be restored by this version."""
    from amber_gable.services.app.machine import backup as backups

    with _plain_faults():
        made = backups.verify(backups.newest(folder))
    typer.echo(f"{made.folder} is whole: made {made.made_at:%Y-%m-%d %H:%M} UTC, {made.photographs} photographs")


@app.command()
def restore(folder: Annotated[Path, typer.Argument(help="A back-up, or a folder of them: then the newest.")]) -> None:
    """Put a back-up into the empty data folder that AMBER_GABLE_DATA_DIR names."""
    from amber_gable.services.app.machine import backup as backups
    from amber_gable.services.app.settings import read_settings

    with _plain_faults():
        settings = read_settings()
        made = backups.restore(backups.newest(folder), settings)
    typer.echo(f"{made.folder} was put back into {settings.data_dir}")


if __name__ == "__main__":
    app()

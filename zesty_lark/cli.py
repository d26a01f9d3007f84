"""``lark``: the commands. Each imports what it needs only when it runs."""

import contextlib
import gc
import os
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

import click

from zesty_lark import __version__
from zesty_lark.core.quantities.refusals import refusals

if TYPE_CHECKING:
    from zesty_lark.settings import Settings


def _say(line: str) -> None:
    click.echo(f"lark: {line}", err=True)


@click.group(invoke_without_command=True, context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(__version__, prog_name="Zesty Lark")
@click.pass_context
def main(context: click.Context) -> None:
    """Zesty Lark: planner, calculator and logbook for surface grinding machinists."""
    if context.invoked_subcommand is None:
        click.echo(context.get_help())


@main.command("help")
@click.pass_context
def show_help(context: click.Context) -> None:
    """Show this list."""
    assert context.parent is not None
    click.echo(context.parent.get_help())


@main.command()
def up() -> None:
    """Serve this shop; the first visitor sets up the first account."""
    _serve(demo=False)


@main.command()
def demo() -> None:
    """Serve the Tern Rock Light demonstration."""
    os.environ.setdefault("LARK_HOME", "var/demo")
    _serve(demo=True)


def _serve(*, demo: bool) -> None:
    from zesty_lark.running.compiled_code import use_kept

    use_kept(_say)  # before anything compiled is loaded
    gc.disable()  # what is loaded stays as long as it runs: it is not looked through for what may go
    from zesty_lark.running.prepare import prepare
    from zesty_lark.running.serve import serve
    from zesty_lark.settings import ensure_secret

    gc.freeze()
    gc.enable()
    with _in_words() as settings:
        ensure_secret(settings)
        serve(settings, _say, lambda url: prepare(url, settings, _say, demo=demo))


@contextlib.contextmanager
def _in_words() -> Iterator["Settings"]:
    """Give the settings; what cannot be done is said in a sentence, and ends the command."""
    from pydantic import ValidationError

    from zesty_lark.exchange.backup_file import BackupError
    from zesty_lark.running.home import StartError
    from zesty_lark.running.mariadb import MariaDBError
    from zesty_lark.running.prepare import NewerDatabase
    from zesty_lark.settings import SettingError, Settings

    _warn_of_unknown_settings()
    try:
        yield Settings()
    except (StartError, MariaDBError, SettingError, BackupError, NewerDatabase) as error:
        _say(str(error))
        sys.exit(1)
    except ValidationError as error:
        for wrong in refusals(error):
            _say(f"LARK_{wrong.where.upper()} cannot be used: {wrong.words}.")
        sys.exit(1)
    except OSError as error:
        _say(f"{error.filename or 'A file'} cannot be used: {error.strerror or error}")
        sys.exit(1)


def _warn_of_unknown_settings() -> None:
    from zesty_lark.settings import unknown_settings

    for name in unknown_settings():
        _say(f"{name} is not a setting; “lark config” lists those there are")


@main.command()
def config() -> None:
    """List the settings, what they are now and what they mean."""
    from zesty_lark.settings import Settings

    _warn_of_unknown_settings()
    settings = Settings()
    for name, field in Settings.model_fields.items():
        click.echo(f"LARK_{name.upper()}={getattr(settings, name)}\n    {field.description}")


@main.command()
def migrate() -> None:
    """Bring the database to the newest table layout without serving."""
    from zesty_lark.running.commands import up_to_date

    with _in_words() as settings, up_to_date(settings, _say):
        pass


@main.command()
def rebuild() -> None:
    """Work out anew, from the logs, what lists and searches show."""
    from zesty_lark.running.commands import up_to_date
    from zesty_lark.store import rebuilding
    from zesty_lark.store.database import sessions

    with _in_words() as settings, up_to_date(settings, _say) as engine, sessions(engine)() as session:
        made = rebuilding.rebuild(session)
        session.commit()
        _say(f"worked out where {made} jobs stand")


@main.command()
@click.argument("file", type=click.Path(dir_okay=False, path_type=Path))
def backup(file: Path) -> None:
    """Write the whole shop into FILE, while it runs or not."""
    from zesty_lark.running.commands import back_up_shop

    with _in_words() as settings:
        back_up_shop(settings, file, _say)


@main.command()
@click.argument("file", type=click.Path(dir_okay=False, path_type=Path))
@click.option("--yes", is_flag=True, help="Do not ask whether all there is now may be replaced.")
@click.option("--key", help="The key that was written down when the shop first made a backup.")
@click.option("--unsealed", is_flag=True, help="Restore a backup that nobody can vouch for.")
def restore(file: Path, yes: bool, key: str | None, unsealed: bool) -> None:
    """Put the shop in FILE in the place of all there is, while it runs or not."""
    from zesty_lark.running.commands import restore_shop

    with _in_words() as settings:
        if not yes:
            click.confirm("Everything in the shop now is replaced (and kept in before-restore.zip). Go on?", abort=True)
        restore_shop(settings, file, _say, key=key, unsealed=unsealed)


@main.command(context_settings={"ignore_unknown_options": True})
@click.argument("arguments", nargs=-1, type=click.UNPROCESSED)
def calc(arguments: tuple[str, ...]) -> None:
    """Answer a calculation: NAME [--schema], --batch or --list; JSON in, JSON out."""
    from zesty_lark import door

    sys.exit(door.main(list(arguments)))


@main.command()
@click.option("--port", default=None, type=click.IntRange(0, 65535), help="Where it listens on this machine.")
@click.option("--surface", default="hollow", help="The hidden surface: hollow, tapered, flat or crowned.")
@click.option("--length", default=88.0, type=click.FloatRange(1, 2000), help="Its length [mm].")
@click.option("--width", default=54.0, type=click.FloatRange(1, 2000), help="Its width [mm].")
@click.option("--resolution", default=0.1, type=click.FloatRange(0.01, 10), help="Its smallest step [µm].")
@click.option("--noise", default=0.05, type=click.FloatRange(0, 100), help="One standard deviation of a reading [µm].")
@click.option("--drift", default=0.0, type=click.FloatRange(-10, 10), help="Drift with every reading [µm].")
@click.option("--unit", default="mm", type=click.Choice(["mm", "in", "um"]), help="What it sends.")
@click.option("--dirty", is_flag=True, help="Dirt on the plate.")
@click.option("--seed", default=1, help="The same seed gives the same readings.")
def gauge(port: int | None, **trim: object) -> None:
    """Run the simulated gauge: a probe over a hidden surface. Enter presses its button."""
    from zesty_lark.running.simulated import run_gauge

    sys.exit(run_gauge(port, trim, _say))


@main.command()
@click.option(
    "--port", default=None, type=click.IntRange(0, 65533), help="Where its readout listens; its meter and gauge follow."
)
@click.option("--diameter", default=180.0, type=click.FloatRange(20, 1000), help="The wheel's diameter [mm].")
@click.option("--width", default=12.7, type=click.FloatRange(1, 200), help="The wheel's width [mm].")
@click.option("--rpm", default=3000.0, type=click.FloatRange(100, 60_000), help="The spindle's speed.")
@click.option("--graduation", default=0.00254, type=click.FloatRange(0.0001, 0.1), help="The collar's graduation [mm].")
@click.option("--bow", default=0.0, type=click.FloatRange(-1000, 1000), help="How far its parts are bowed [µm].")
@click.option("--seed", default=1, help="The same seed hides the same things.")
def grinder(port: int | None, **on: float) -> None:
    """Run the simulated grinder: a readout, a power meter and a gauge, with a wheel that wears and a hidden part."""
    from zesty_lark.running.simulated_grinder import run_grinder

    sys.exit(run_grinder(port, on, _say))


@main.command("dask-worker")
@click.argument("scheduler")
def dask_worker(scheduler: str) -> None:
    """Work for the Dask scheduler at an address, such as tcp://192.0.2.30:8786."""
    from zesty_lark.running.compiled_code import use_kept

    use_kept(_say)
    sys.exit(subprocess.run([sys.executable, "-m", "distributed.cli.dask_worker", scheduler]).returncode)


CHECKS = (
    ("style", ["ruff", "check", "."]),
    ("layout", ["ruff", "format", "--check", "."]),
    ("templates", ["djlint", "--check", "zesty_lark/web"]),
    ("types", ["mypy", "--no-error-summary"]),
    ("floors", ["lint-imports", "--no-cache"]),
)


@main.command()
def check() -> None:
    """Check style, types and that imports only go down."""
    sys.exit(_checks())


def _checks() -> int:
    from concurrent.futures import ThreadPoolExecutor

    from zesty_lark.running.audit import audited

    told = list[str]()
    with ThreadPoolExecutor(len(CHECKS) + 1) as beside:
        running = [(name, beside.submit(_checked, command)) for name, command in CHECKS]
        dependencies = beside.submit(audited, told.append)  # that waits for others, mostly
        failed = 0
        for name, check in running:
            _say(f"checking {name}")
            done = check.result()
            failed |= done.returncode
            click.echo(done.stdout, err=True, nl=False)
        _say("checking dependencies")
        failed |= dependencies.result()
    for line in told:
        _say(line)
    return failed


def _checked(command: list[str]) -> subprocess.CompletedProcess[str]:
    """Run one check; what it says is kept, so that no two talk at once."""
    module = [sys.executable, "-m", *command]
    if command[0] == "lint-imports":
        module = [os.path.join(os.path.dirname(sys.executable), *command[:1]), *command[1:]]
    return subprocess.run(module, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True)


@main.command(context_settings={"ignore_unknown_options": True})
@click.argument("arguments", nargs=-1, type=click.UNPROCESSED)
def test(arguments: tuple[str, ...]) -> None:
    """Run every check and test; anything after “test” goes to pytest."""
    if arguments:
        sys.exit(subprocess.run([sys.executable, "-m", "pytest", *arguments]).returncode)
    compiling = subprocess.Popen([sys.executable, "-m", "zesty_lark.running.compiled_code"])
    reading = subprocess.Popen(
        [sys.executable, "-m", "pytest", "--collect-only", "-q", "tests", "bench"],
        stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
    )  # fmt: skip
    failed = _checks()
    failed |= compiling.wait()
    reading.wait()  # what is wrong with a test is said when it runs
    _say("testing, and running each benchmark once, unmeasured")
    many = str(1 + (os.cpu_count() or 1))  # one of them waits for a browser, most of the time
    shared_out = ["-n", many, "--dist", "loadgroup", "--no-loadscope-reorder"]
    small = dict(os.environ, LARK_BENCH_SMALL="1")
    command = [sys.executable, "-m", "pytest", *shared_out, "--benchmark-disable", "tests", "bench"]
    sys.exit(failed | subprocess.run(command, env=small).returncode)


@main.command(context_settings={"ignore_unknown_options": True})
@click.argument("arguments", nargs=-1, type=click.UNPROCESSED)
def bench(arguments: tuple[str, ...]) -> None:
    """Run the benchmarks."""
    sys.exit(subprocess.run([sys.executable, "-m", "pytest", "bench", "--benchmark-only", *arguments]).returncode)


if __name__ == "__main__":
    main()

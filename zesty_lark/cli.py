"""``lark``: the commands. Each imports what it needs only when it runs."""

import os
import subprocess
import sys

import click

from zesty_lark import __version__

__all__ = ["main"]


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
    from zesty_lark.running.mariadb import MariaDBError
    from zesty_lark.running.prepare import prepare
    from zesty_lark.running.serve import StartError, serve
    from zesty_lark.settings import SettingError, Settings, ensure_secret

    _warn_of_unknown_settings()
    settings = Settings()
    try:
        ensure_secret(settings)
        serve(settings, _say, lambda url: prepare(url, settings, _say, demo=demo))
    except (StartError, MariaDBError, SettingError) as error:
        _say(str(error))
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
    from zesty_lark.running.prepare import bring_up_to_date
    from zesty_lark.running.serve import database
    from zesty_lark.settings import Settings

    with database(Settings(), _say) as (url, _server):
        bring_up_to_date(url, _say)


@main.command()
@click.argument("name", required=False)
@click.option("--batch", is_flag=True, help="Answer JSON lines {\"name\": …, \"input\": {…}}, one line each.")
@click.option("--list", "listed", is_flag=True, help="List the calculations.")
@click.option("--schema", "show_schema", is_flag=True, help="Show a calculation's input and output.")
def calc(name: str | None, batch: bool, listed: bool, show_schema: bool) -> None:
    """Answer a calculation: one JSON object on standard input, one on standard output."""
    from zesty_lark.core import headless

    if listed:
        click.echo("\n".join(headless.listing()))
    elif batch:
        for line in headless.batch(sys.stdin.buffer):
            sys.stdout.write(line + "\n")
    elif name is None:
        raise click.UsageError("Which calculation? “lark calc --list” shows them all.")
    elif show_schema:
        sys.exit(_told(*headless.schema(name)))
    else:
        sys.exit(_told(*headless.one(name, sys.stdin.buffer.read())))


def _told(text: str, wrong: bool) -> int:
    """Write an answer, or what is wrong on the error stream; return the exit code."""
    print(text, file=sys.stderr if wrong else sys.stdout)
    return 2 if wrong else 0


CHECKS = (
    ("style", ["ruff", "check", "."]),
    ("types", ["mypy", "--no-error-summary"]),
    ("floors", ["lint-imports", "--no-cache"]),
)


@main.command()
def check() -> None:
    """Check style, types and that imports only go down."""
    sys.exit(_checks())


def _checks() -> int:
    failed = 0
    for name, command in CHECKS:
        _say(f"checking {name}")
        failed |= subprocess.run([sys.executable, "-m", *command] if command[0] != "lint-imports"
                                 else [os.path.join(os.path.dirname(sys.executable), "lint-imports"), *command[1:]],
                                 stdout=sys.stderr).returncode
    return failed


@main.command(context_settings={"ignore_unknown_options": True})
@click.argument("arguments", nargs=-1, type=click.UNPROCESSED)
def test(arguments: tuple[str, ...]) -> None:
    """Run every check and test; anything after “test” goes to pytest."""
    failed = 0 if arguments else _checks()
    _say("testing")
    failed |= subprocess.run([sys.executable, "-m", "pytest", *arguments]).returncode
    if not arguments:
        _say("running each benchmark once, unmeasured")
        failed |= subprocess.run([sys.executable, "-m", "pytest", "bench", "--benchmark-disable"]).returncode
    sys.exit(failed)


@main.command(context_settings={"ignore_unknown_options": True})
@click.argument("arguments", nargs=-1, type=click.UNPROCESSED)
def bench(arguments: tuple[str, ...]) -> None:
    """Run the benchmarks."""
    sys.exit(subprocess.run([sys.executable, "-m", "pytest", "bench", "--benchmark-only", *arguments]).returncode)


if __name__ == "__main__":
    main()

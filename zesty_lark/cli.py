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
    from zesty_lark.running.compiled_code import use_kept

    use_kept(_say)  # before anything compiled is loaded
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
def rebuild() -> None:
    """Work out anew, from the logs, what lists and searches show."""
    from zesty_lark.running.prepare import bring_up_to_date
    from zesty_lark.running.serve import database
    from zesty_lark.settings import Settings
    from zesty_lark.store import shoplog
    from zesty_lark.store.database import sessions

    with database(Settings(), _say) as (url, _server):
        engine = bring_up_to_date(url, _say)
        with sessions(engine)() as session:
            made = shoplog.rebuild(session)
            session.commit()
        _say(f"worked out where {made} jobs stand")


@main.command(context_settings={"ignore_unknown_options": True})
@click.argument("arguments", nargs=-1, type=click.UNPROCESSED)
def calc(arguments: tuple[str, ...]) -> None:
    """Answer a calculation: NAME [--schema], --batch or --list; JSON in, JSON out."""
    from zesty_lark import door

    sys.exit(door.main(list(arguments)))


CHECKS = (
    ("style", ["ruff", "check", "."]),
    ("layout", ["ruff", "format", "--check", "."]),
    ("templates", ["djlint", "--check", "--quiet", "zesty_lark/web"]),
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
        failed |= subprocess.run(
            [sys.executable, "-m", *command]
            if command[0] != "lint-imports"
            else [os.path.join(os.path.dirname(sys.executable), "lint-imports"), *command[1:]],
            stdout=sys.stderr,
        ).returncode
    return failed


@main.command(context_settings={"ignore_unknown_options": True})
@click.argument("arguments", nargs=-1, type=click.UNPROCESSED)
def test(arguments: tuple[str, ...]) -> None:
    """Run every check and test; anything after “test” goes to pytest."""
    failed = 0 if arguments else _checks()
    _say("testing")
    shared_out = [] if arguments else ["-n", str(os.cpu_count() or 1), "--dist", "loadgroup"]
    failed |= subprocess.run([sys.executable, "-m", "pytest", *shared_out, *arguments]).returncode
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

"""What may go up on a machine's chuck now, and why not."""

from dataclasses import dataclass

from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.core.work.on_machine import OnMachine


class AnotherUp(LogError):
    """Another job's load is up on the machine; ``job`` is its number."""

    def __init__(self, job: str, machine: str) -> None:
        super().__init__(
            f"{job} is up on {machine}. Putting this up takes it off, and its zero is lost: say that it is off the "
            "chuck, and press again."
        )
        self.job = job


@dataclass(frozen=True)
class Claims:
    """What else claims the chuck, or what is to hold the load.

    Attributes
    ----------
    chuck_ground : str
        Why nothing goes up while the chuck itself is ground; empty when it is not.
    holder : str
        What the run is planned to be held by.
    held_in_it : tuple of str and str, or None
        The job whose load that holds on another machine, and the machine.
    """

    chuck_ground: str
    holder: str
    held_in_it: tuple[str, str] | None


def check_goes_up(on: OnMachine, claims: Claims, takes_off: str) -> None:
    """Pass silently when a load may go up; ``takes_off`` is the job whose load comes off for it, as its sender said.

    Raises
    ------
    LogError
        If the chuck is ground itself, or what holds the load holds another on another machine.
    AnotherUp
        If another load is up that nobody said comes off.
    """
    if claims.chuck_ground:
        raise LogError(claims.chuck_ground)
    if on.other_up and on.other_up != takes_off:
        raise AnotherUp(on.other_up, on.machine)
    if claims.held_in_it is not None:
        job, machine = claims.held_in_it
        raise LogError(f"{claims.holder} holds {job} on {machine}. Take that off first.")

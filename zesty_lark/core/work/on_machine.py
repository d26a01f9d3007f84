"""What is on a job's machine now, as the job's rules and screens see it."""

from dataclasses import dataclass


@dataclass(frozen=True)
class OnMachine:
    """What the machine of a job knows.

    Attributes
    ----------
    job, machine : str
        The job's number, and the machine it is for.
    wheel : str
        The wheel that the job is planned with.
    spindle : str or None
        The wheel that is on the machine.
    unready : str
        The step of mounting that comes first, where the wheel is on and not ready; empty when it is.
    up : str or None
        The number of the job whose load is up on the chuck.
    """

    job: str
    machine: str
    wheel: str
    spindle: str | None
    unready: str
    up: str | None

    @property
    def wheel_stop(self) -> str:
        """Why nothing is touched off, dressed or ground now; empty when it may be."""
        if self.spindle is None:
            return f"{self.wheel} is not on {self.machine}: mount it, step by step, or change the wheel of this job."
        if self.spindle != self.wheel:
            return (
                f"On {self.machine} is {self.spindle}, and this job is planned with {self.wheel}. Mount {self.wheel}, "
                f"or change the job to {self.spindle} and plan again."
            )
        if self.unready:
            return f"{self.wheel} is on {self.machine}, and not ready: {self.unready} comes first."
        return ""

    @property
    def is_up(self) -> bool:
        """Whether it is this job's load that is up."""
        return self.up == self.job

    @property
    def other_up(self) -> str:
        """The number of another job that is up; empty when none is."""
        return "" if self.up in (None, self.job) else str(self.up)

"""What is said to the keeper: the verdict and the jobs."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from jarbloom.core.model.findings import Severity


@dataclass(frozen=True)
class Job:
    """Something to do. `shorthand` is the log line that ticking it writes; empty asks for a reading."""

    kind: str
    title: str
    why: str
    due: datetime
    due_text: str
    urgent: bool = False
    amount: float | None = None
    unit: str = ""
    shorthand: str = ""
    hardness: str = "practice"
    caution: str = ""
    subject: str = ""  # which of several of its kind: a check, a device, a step
    where: str = ""  # the page it is done on, when it is not done by a tick

    @property
    def key(self) -> str:
        """What a snooze or a skip is remembered by."""
        return f"{self.kind}.{self.subject}" if self.subject else self.kind

    @property
    def protects(self) -> bool:
        """It protects animals today: it can be skipped with a reason, but not put off in silence."""
        return self.urgent and self.hardness == "safety"


@dataclass(frozen=True)
class Verdict:
    """`state` is hold, watch, test, add or act. Sentence = call + because, then advice in italic; `milestone` where the
    tank stands, in plain words."""

    state: str
    call: str
    because: str
    advice: str
    reasons: tuple[str, ...]
    severity: Severity = Severity.KNOW
    milestone: str = ""

    @property
    def sentence(self) -> str:
        return " ".join(part for part in (self.call, self.because, self.advice) if part)


def clock_words(at: datetime, now: datetime) -> str:
    """The hour of today, with its day on another one."""
    return f"{at:%H:%M}" if at.date() == now.date() else f"{at:%a %H:%M}"

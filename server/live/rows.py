"""Rows of pictures under way on a bench: the bracket of a dial, or a trial. The same engine makes both evenly."""

from nineglass.documents.model import Material, Settings, Stage
from nineglass.documents.trials import DialAxis, Trial
from nineglass.spectra.difference import delta_e_of
from nineglass.trials.sheet import READABLE, SIDE, Sheet, side_for

from live import messages

MOST_BRACKETED = 9
BRACKET_READABLE = 0.1
"""Noise at which a bracket can be chosen from: sooner than a sheet is judged."""


def sheet_of(trial: Trial, settings: Settings, side: int, readable_at: float = READABLE) -> Sheet:
    """Its pictures are no larger than that of the bench, and have no more samples."""
    return Sheet(trial, min(side, settings.picture_side), readable_at, settings.most_samples)


class Row:
    """Pictures made evenly, and what each shows as far as they are, (side, side, 3) uint8 by their place."""

    def __init__(self, sheet: Sheet):
        self.sheet, self.pictures = sheet, {}


class Bracket(Row):
    """A strip across one dial, from which a value is chosen."""

    def __init__(self, material: Material, stage: Stage, settings: Settings, asked: dict):
        """Raises Refused when a value cannot be set. asked: the fields of `messages.BracketAsked`."""
        about = {name: asked[name] for name in ("module", "part", "dial")}
        self.axis = DialAxis(**about, values=asked["values"][:MOST_BRACKETED])
        trial = Trial(material=material, stage=stage, across=self.axis)
        super().__init__(sheet_of(trial, settings, SIDE, BRACKET_READABLE))

    def says(self, k: int) -> messages.Bracketed:
        axis, sheet = self.axis, self.sheet
        about = {"part": axis.part, "dial": axis.dial, "value": axis.values[k], "noise": sheet.noise[k]}
        return messages.Bracketed(place=k, readable=sheet.readable, **about)


class TrialRun(Row):
    """A trial as it is being made."""

    def __init__(self, trial: Trial, settings: Settings, asked: dict):
        """Raises Refused when a value cannot be set. asked: the fields of `messages.TrialAsked`."""
        super().__init__(sheet_of(trial, settings, side_for(trial)))
        self.trial, self.run, self.before = trial, asked["run"], asked["before"]

    def says(self, k: int) -> messages.Tried:
        sheet, mean = self.sheet, self.sheet.mean(k)
        changed = delta_e_of(mean, self.before[k]) if self.before and k < len(self.before) else None
        progress = sum(sheet.rounds) / (len(sheet.samples) * len(sheet.rounds))
        return messages.Tried(
            run=self.run,
            place=k,
            readable=sheet.readable,
            done=sheet.done,
            progress=1.0 if sheet.done else progress,
            noise=sheet.noise[k],
            mean=mean,
            changed=changed,
        )

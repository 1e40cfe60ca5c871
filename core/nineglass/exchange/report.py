"""What became of a document on its way into another format, or out of one: line by line."""

from typing import Literal

from pydantic import BaseModel

Went = Literal["exactly", "nearly", "not", "to set"]
"""How a thing went over; "to set": what the other side has to set, or what was taken for granted of a file."""


class Line(BaseModel):
    """One thing, what became of it, and the figure that tells how near it comes."""

    went: Went
    what: str
    says: str
    figure: str = ""


class Report(BaseModel):
    """Of one material or stage, and one format."""

    format: str
    lines: list[Line] = []

    def add(self, went: Went, what: str, says: str, figure: str = "") -> None:
        line = Line(went=went, what=what, says=says, figure=figure)
        if line not in self.lines:
            self.lines.append(line)

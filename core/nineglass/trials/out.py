"""A trial as a picture with its labels, and as a table."""

import csv
import io

import numpy as np

from nineglass.documents.trials import Trial
from nineglass.spectra.srgb import to_hex

GAP, LABEL_HIGH, LABEL_WIDE, TEXT = 6, 22, 120, 12
PAPER, INK = (244, 242, 237), (29, 29, 29)


def labelled(trial: Trial, cells: list[np.ndarray], noise: list[float]) -> np.ndarray:
    """(h, w, 3) uint8: the pictures of a trial, row by row, each (side, side, 3) uint8, with what each is of."""
    from PIL import Image, ImageDraw, ImageFont

    side, font = len(cells[0]), ImageFont.load_default(TEXT)
    left, top = (LABEL_WIDE if trial.down else GAP), 2 * LABEL_HIGH + GAP
    step = side + LABEL_HIGH
    sheet = Image.new("RGB", (left + trial.columns * (side + GAP), top + trial.rows * step + GAP), PAPER)
    draw = ImageDraw.Draw(sheet)
    draw.text((GAP, GAP), f"{trial.name}: {trial.material.name} on {trial.stage.name}"[:160], INK, font)
    for column, said in enumerate(trial.across.steps()):
        draw.text((left + column * (side + GAP), LABEL_HIGH + GAP), f"{trial.across.label} {said}"[:32], INK, font)
    for k, cell in enumerate(cells):
        row, column = divmod(k, trial.columns)
        x, y = left + column * (side + GAP), top + row * step
        sheet.paste(Image.fromarray(cell), (x, y))
        draw.text((x, y + side + 2), f"noise {noise[k]:.1%}", INK, font)
        if trial.down and column == 0:
            draw.text((GAP, y), trial.down.label[:20], INK, font)
            draw.text((GAP, y + TEXT + 4), trial.down.steps()[row][:20], INK, font)
    return np.asarray(sheet)


def table(trial: Trial, means: list[list[float]], noise: list[float]) -> str:
    """CSV: what each picture is of, the linear mean colour of its middle (Rec.709), the same as sRGB, and its noise."""
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\n")
    down = [trial.down.label] if trial.down else []
    rows.writerow([*down, trial.across.label, "red", "green", "blue", "sRGB", "noise"])
    for k, mean in enumerate(means):
        row, column = divmod(k, trial.columns)
        own = [trial.down.steps()[row]] if trial.down else []
        figures = [f"{v:.5f}" for v in mean]
        rows.writerow([*own, trial.across.steps()[column], *figures, to_hex(mean), f"{noise[k]:.4f}"])
    return out.getvalue()

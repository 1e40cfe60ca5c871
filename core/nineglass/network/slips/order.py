from nineglass.describe import text_dial
from nineglass.network.slips import SLIPS


@SLIPS.kind(title="Note", family="order", standard="backdrop")
class Note:
    """Words on the paper, for those who come after. It gives nothing."""

    synonyms = "comment remark text annotation"
    text = text_dial(label="Text")

    def emit(self, ops, dials):
        return {}

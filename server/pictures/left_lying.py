"""What there is to do for pictures under way that nobody works on: asked of the database once for all of them, since most only wait for their turn."""

from collections import defaultdict

from django.db.models import Max, Min
from nineglass.finals.plan import tiles_of

from pictures import making
from pictures.making import AHEAD, UNDER_WAY
from pictures.models import Chunk, FinalPicture, Frame, Piece


class LeftLying:
    """queued: ids of chunks that are in the queue. lanes: how many chunks are made at a time."""

    def __init__(self, queued: set[int], lanes: int):
        self.pictures = list(FinalPicture.objects.filter(state=UNDER_WAY).defer("material", "stage"))
        self._waiting, self._lying = defaultdict(int), defaultdict(list)
        chunks = Chunk.objects.filter(piece__picture__state=UNDER_WAY, sums="")
        for chunk_id, picture_id in chunks.values_list("id", "piece__picture"):
            self._waiting[picture_id] += 1
            if chunk_id not in queued:
                self._lying[picture_id].append(chunk_id)
        self._samples = defaultdict(dict)
        pieces = Piece.objects.filter(picture__state=UNDER_WAY).values_list("picture", "frame").order_by()
        for picture_id, frame, least, most in pieces.annotate(Min("samples"), Max("samples")):
            self._samples[picture_id][frame] = least, most
        self._frames = defaultdict(list)
        for one in Frame.objects.filter(picture__state=UNDER_WAY):
            self._frames[one.picture_id].append(one)
        self._lanes = lanes
        self._pieces = self._open_pieces()

    def _open_pieces(self) -> dict:
        """Of pictures of which fewer chunks wait than might: each piece, and how many chunks of it are planned."""
        few = [one.id for one in self.pictures if self._waiting[one.id] < AHEAD * self._lanes]
        found = defaultdict(list)
        for piece in Piece.objects.filter(picture__in=few).annotate(last=Max("chunks__number")):
            planned = max(piece.merged, 0 if piece.last is None else piece.last + 1)
            found[piece.picture_id].append((piece, planned))
        return found

    def chunks_of(self, picture: FinalPicture) -> list[int]:
        """That are to be made, and in nobody's queue."""
        return self._lying[picture.id]

    def has_to_be_looked_at(self, picture: FinalPicture) -> bool:
        """Whoever made the last chunk would have done so. What merely goes on is looked at after its next chunk."""
        samples = self._samples[picture.id]
        if picture.series:
            left = [one for one in self._frames[picture.id] if not one.is_done]
            return not left or any(samples[one.number][0] >= one.look_at for one in left)
        least, most = samples[0]
        return most > 0 and (picture.looked_at is None or making.is_complete(picture, least))

    def may_be_planned(self, picture: FinalPicture) -> bool:
        final, frames = making.final_of(picture), {one.number: one for one in self._frames[picture.id]}
        tiles = tiles_of(final)
        for piece, planned in self._pieces[picture.id]:
            frame = frames.get(piece.frame)
            if (frame is None or not frame.is_done) and making.next_sample(
                final, tiles[piece.tile], planned, frame and frame.look_at
            ) is not None:
                return True
        return False

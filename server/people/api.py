from datetime import datetime
from typing import Annotated, Literal
from uuid import UUID

from library.access import CHANGE, COMMENT, LOOK
from library.api import FaultsOut
from ninja import Router, Schema
from pydantic import Field

from people import services
from people.models import Comment, Share

router = Router(tags=["people"])

Shared = Literal["material", "stage", "trial"]
May = Literal[LOOK, COMMENT, CHANGE]
Fraction = Annotated[float, Field(ge=0, le=1)]


class ShareOut(Schema):
    id: UUID
    kind: Shared
    of: UUID
    called: str
    """The name of what is shared."""
    person: str
    may: May
    since: datetime

    @staticmethod
    def resolve_of(share: Share) -> UUID:
        return share.of.id

    @staticmethod
    def resolve_called(share: Share) -> str:
        return share.of.name

    @staticmethod
    def resolve_person(share: Share) -> str:
        return share.person.get_username()


class ShareIn(Schema):
    person: str = Field(max_length=150)
    may: May


class CommentOut(Schema):
    id: UUID
    proof_id: UUID
    number: int
    """Of the proof."""
    author: str
    is_mine: bool
    says: str
    at: tuple[float, float] | None
    """The place in the picture, 0 to 1 from the left and from the top."""
    made_at: datetime

    @staticmethod
    def resolve_number(comment: Comment) -> int:
        return comment.proof.number

    @staticmethod
    def resolve_author(comment: Comment) -> str:
        return comment.author.get_username() if comment.author else "somebody who left"

    @staticmethod
    def resolve_is_mine(comment: Comment, context) -> bool:
        return comment.author_id == context["request"].user.id

    @staticmethod
    def resolve_at(comment: Comment) -> tuple[float, float] | None:
        return None if comment.x is None else (comment.x, comment.y)


class CommentIn(Schema):
    says: str = Field(max_length=2000)
    at: tuple[Fraction, Fraction] | None = None


@router.get("people", response=list[str])
def people(request):
    """The names of all others of this installation."""
    return [one.get_username() for one in services.everybody_else(request.user)]


@router.get("people/shares", response=list[ShareOut])
def given(request):
    """Everything that the person shares, and with whom."""
    return services.given_by(request.user)


@router.get("people/shares/{kind}/{uuid:of}", response=list[ShareOut])
def shares(request, kind: Shared, of: UUID):
    return services.shares_of(request.user, kind, of)


@router.put("people/shares/{kind}/{uuid:of}", response={200: ShareOut, 422: FaultsOut})
def share(request, kind: Shared, of: UUID, payload: ShareIn):
    return 200, services.share(request.user, kind, of, payload.person, payload.may)


@router.delete("people/shares/{uuid:share_id}", response={204: None})
def take_back(request, share_id: UUID):
    services.take_back(request.user, share_id)
    return 204, None


@router.get("materials/{uuid:material_id}/comments", response=list[CommentOut])
def comments(request, material_id: UUID):
    """All that was said of the proofs of a material."""
    return services.comments_of(request.user, material_id)


@router.post("proofs/{uuid:proof_id}/comments", response={201: CommentOut, 422: FaultsOut})
def comment(request, proof_id: UUID, payload: CommentIn):
    return 201, services.comment(request.user, proof_id, payload.says, payload.at)


@router.delete("comments/{uuid:comment_id}", response={204: None})
def take_comment_back(request, comment_id: UUID):
    services.take_comment_back(request.user, comment_id)
    return 204, None

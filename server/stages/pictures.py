"""Pictures of stages, for shelves and pickers: each with the material that its owner put on it last.

Everybody who may look at a stage sees its picture: what it wears is as it was saved where others may change the stage.
"""

from materials.portraits import Pictured, keep_portrait

from stages.following import brought_up
from stages.models import Stage, Standing


def _make(stage: Stage, tracer) -> None:
    from nineglass.documents import model as documents
    from nineglass.trials.portraits import portrait_of_stage

    own = Standing.objects.filter(stage=stage, person=stage.owner)
    stood = own.select_related("material").order_by("-id").first()
    given = stood.material.document if stood else documents.plain_documents()["material"].model_dump()
    followed = stage if stage.shares.exists() else brought_up([stage], stage.owner)[0]
    shown = documents.read(documents.Stage, followed.document)
    keep_portrait(stage, portrait_of_stage(documents.read(documents.Material, given), shown, tracer))


STAGES = Pictured(lambda: Stage.objects.select_related("owner"), _make)

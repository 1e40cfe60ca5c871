"""Pictures of stages, for shelves and pickers: each with the material that stood on it last."""

from materials.portraits import Pictured, keep_portrait

from stages.following import brought_up
from stages.models import Stage, Standing


def _make(stage: Stage, tracer) -> None:
    from nineglass.documents import model as documents
    from nineglass.trials.portraits import portrait_of_stage

    stood = Standing.objects.filter(stage=stage).select_related("material").order_by("-id").first()
    given = stood.material.document if stood else documents.plain_documents()["material"].model_dump()
    shown = documents.read(documents.Stage, brought_up([stage])[0].document)
    keep_portrait(stage, portrait_of_stage(documents.read(documents.Material, given), shown, tracer))


STAGES = Pictured(lambda: Stage.objects.select_related("owner"), _make)

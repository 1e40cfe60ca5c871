from django.http import HttpResponse
from django.views.decorators.http import require_GET
from library.kept_pictures import answer_with
from nineglass.documents.trials import read_trial
from nineglass.trials.out import table

from trials import services


@require_GET
def trial_picture(request, trial_id):
    """The pictures of a kept trial on one sheet, with labels; it never changes."""
    with services.get(request.user, trial_id).picture.open() as file:
        return answer_with(file.read())


@require_GET
def trial_table(request, trial_id):
    """The values of a kept trial with its mean colours, as CSV."""
    trial = services.get(request.user, trial_id)
    response = HttpResponse(
        table(read_trial(trial.document), trial.means, trial.noise), content_type="text/csv; charset=utf-8"
    )
    response["Content-Disposition"] = 'attachment; filename="trial.csv"'
    return response

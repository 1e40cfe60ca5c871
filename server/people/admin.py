"""The administrators' page: who is here, how much each may keep, and who is invited."""

from accounts.models import Invitation
from django.conf import settings
from django.contrib import admin, messages
from django.contrib.auth.admin import UserAdmin
from django.contrib.auth.models import Group, User
from django.db.models import Count, OuterRef, Subquery, Sum
from django.utils.html import format_html
from library.models import KeptFile, Quota

admin.site.site_header = admin.site.site_title = "Nine Glass: people"
admin.site.index_title = "Who is here, how much each may keep, who is invited"
admin.site.unregister(Group)
admin.site.unregister(User)


class QuotaInline(admin.StackedInline):
    model = Quota
    extra = 0

    def get_formset(self, request, obj=None, **about):
        formset = super().get_formset(request, obj, **about)
        usual = {"documents": settings.MOST_DOCUMENTS, "file_mb": settings.MOST_FILE_MB}
        for name, value in usual.items():
            formset.form.base_fields[name].initial = value
        return formset


@admin.register(User)
class PersonAdmin(UserAdmin):
    """People are made inactive and never deleted: what they shared stays with those who have it."""

    inlines = [QuotaInline]
    list_display = ["username", "is_active", "is_staff", "last_login", "materials", "files", "quota"]
    list_filter = []
    list_select_related = ["quota"]
    filter_horizontal = ()
    fieldsets = [
        (None, {"fields": ["username", "password"]}),
        ("May", {"fields": ["is_active", "is_staff", "is_superuser"]}),
        ("Since", {"fields": ["date_joined", "last_login"]}),
    ]
    readonly_fields = ["date_joined", "last_login"]

    def get_queryset(self, request):
        files = KeptFile.objects.filter(owner=OuterRef("pk"), is_lent=False).values("owner")
        kept = super().get_queryset(request)
        return kept.annotate(count=Count("material"), bytes=Subquery(files.annotate(all=Sum("bytes")).values("all")))

    @admin.display(ordering="count")
    def materials(self, person) -> int:
        return person.count

    @admin.display(description="MB of files", ordering="bytes")
    def files(self, person) -> str:
        return f"{(person.bytes or 0) / 1e6:.1f}"

    def has_delete_permission(self, request, obj=None) -> bool:
        return False


@admin.register(Invitation)
class InvitationAdmin(admin.ModelAdmin):
    """The link is shown once, when the invitation is made."""

    list_display = ["__str__", "invited_by", "expires", "taken_by"]
    fields = ["note"]

    def save_model(self, request, invitation, form, change):
        if change:
            invitation.save()
            return
        link = request.build_absolute_uri(f"/join/{invitation.issue(request.user)}/")
        says = format_html("Give this link to whom you invite; it is shown only now: <code>{}</code>", link)
        messages.success(request, says)

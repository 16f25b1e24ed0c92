"""The places of the shop as groups, each with the least rights that its work needs."""

from __future__ import annotations

from django.contrib.auth.models import Group, Permission

__all__ = ["RIGHTS", "set_up_places"]

RIGHTS: dict[str, tuple[str, ...]] = {
    "Desk": ("take_list", "change_wording", "export_customers"),
    "Bench": (
        "change_wording",
        "override_checks",
        "download_pieces",
        "add_own_typeface",
        "add_supplied_file",
    ),
    "Production": ("download_pieces", "plan_runs", "set_station"),
    "Owner": (
        "take_list",
        "change_wording",
        "override_checks",
        "export_customers",
        "download_pieces",
        "plan_runs",
        "set_station",
        "change_feed",
        "add_own_typeface",
        "add_supplied_file",
        "change_catalogue",
        "change_standards",
        "manage_people",
        "forget_customers",
    ),
}


#: The apps that have rights of their own.
_APPS = ("orders", "feeds", "catalogue", "people", "runs", "standards", "stations")


def set_up_places() -> dict[str, Group]:
    """Make the groups, or bring their rights up to date."""
    groups = {}
    for place, rights in RIGHTS.items():
        group, _ = Group.objects.get_or_create(name=place)
        group.permissions.set(
            Permission.objects.filter(
                content_type__app_label__in=_APPS,
                codename__in=rights,
            )
        )
        groups[place] = group
    return groups

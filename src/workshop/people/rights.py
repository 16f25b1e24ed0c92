"""The one table of who may reach what: every address by its name, with the right that it asks for.

An address that does not stand here can't be reached at all. A test walks over every address with every
place of the shop.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.core.exceptions import PermissionDenied
from django.http import HttpRequest, HttpResponse

__all__ = ["ANYBODY", "RIGHTS_OF", "SIGNED_IN", "RightsMiddleware"]

#: Without sign-in; with any sign-in.
ANYBODY, SIGNED_IN = "anybody", "signed in"

_TAKE, _WORDS = "orders.take_list", "orders.change_wording"

RIGHTS_OF: dict[str, str] = {
    "alive": ANYBODY,
    "home": SIGNED_IN,
    # people
    "people:sign-in": ANYBODY,
    "people:sign-out": SIGNED_IN,
    "people:password": SIGNED_IN,
    "people:people": "people.manage_people",
    "people:add": "people.manage_people",
    "people:change": "people.manage_people",
    "retention:look": "people.forget_customers",
    "retention:do": "people.forget_customers",
    # the order book
    "book:book": SIGNED_IN,
    "book:rail": SIGNED_IN,
    "book:lately": SIGNED_IN,
    "book:rows": SIGNED_IN,
    "book:export-csv": "orders.export_customers",
    "book:export-xlsx": "orders.export_customers",
    "book:act": _WORDS,
    "book:making": _TAKE,
    "book:bundles": "orders.download_pieces",
    "book:ask-bundle": "orders.download_pieces",
    "book:fetch-bundle": "orders.download_pieces",
    # lists coming in
    "intake:take": _TAKE,
    "intake:trial": _TAKE,
    "intake:reading": _TAKE,
    "intake:take-in": _TAKE,
    "intake:set-aside": SIGNED_IN,
    "intake:set-aside-file": "orders.export_customers",
    "intake:retry": _TAKE,
    "intake:answer": _TAKE,
    "intake:alias": _TAKE,
    "intake:forget-alias": _TAKE,
    "intake:words": SIGNED_IN,
    "intake:placeholders": _TAKE,
    "intake:logos": _TAKE,
    "intake:logo-trial": _TAKE,
    "intake:logo-threshold": _TAKE,
    "intake:logo-use": _TAKE,
    "feeds:feeds": SIGNED_IN,
    "feeds:add": "feeds.change_feed",
    "feeds:change": "feeds.change_feed",
    # the bench
    "bench:first": SIGNED_IN,
    "bench:piece": SIGNED_IN,
    "bench:look": SIGNED_IN,
    "bench:hand": SIGNED_IN,
    "bench:beside": SIGNED_IN,
    "bench:here": SIGNED_IN,
    "bench:solid-checks": SIGNED_IN,
    "bench:remedies": SIGNED_IN,
    "bench:picture": SIGNED_IN,
    "bench:solid": SIGNED_IN,
    "bench:cut": SIGNED_IN,
    "bench:keep": _WORDS,
    "bench:all-the-same": "orders.override_checks",
    "bench:back": _WORDS,
    "bench:forth": _WORDS,
    "curing:together": SIGNED_IN,
    "curing:look": _WORDS,
    "curing:take": _WORDS,
    "curing:back": _WORDS,
    "curing:version": SIGNED_IN,
    "curing:version-lines": SIGNED_IN,
    "curing:take-version": _WORDS,
    "curing:standard-lines": SIGNED_IN,
    "curing:keep-standard": "standards.change_standards",
    # runs and stations
    "runs:runs": SIGNED_IN,
    "runs:run": SIGNED_IN,
    "runs:look": SIGNED_IN,
    "runs:propose": "runs.plan_runs",
    "runs:stop": "runs.plan_runs",
    "runs:move": "runs.plan_runs",
    "runs:change": "runs.plan_runs",
    "runs:made": "runs.plan_runs",
    "runs:fetch": "orders.download_pieces",
    "runs:fetch-one": "orders.download_pieces",
    "runs:station-would": "stations.set_station",
    "stations:stations": SIGNED_IN,
    "stations:station": SIGNED_IN,
    "stations:keep": "stations.set_station",
    "stations:add": "stations.set_station",
    # the catalogue
    "guide:guide": SIGNED_IN,
    "guide:chapter": SIGNED_IN,
    "guide:picture": SIGNED_IN,
    "catalogue:products": SIGNED_IN,
    "catalogue:product": SIGNED_IN,
    "catalogue:new": SIGNED_IN,
    "catalogue:start-sample": SIGNED_IN,
    "catalogue:start": "catalogue.change_catalogue",
    "catalogue:start-on-shape": "catalogue.change_catalogue",
    "catalogue:copy-product": "catalogue.change_catalogue",
    "catalogue:sample": SIGNED_IN,
    "catalogue:wall": SIGNED_IN,
    "catalogue:section": SIGNED_IN,
    "catalogue:grid": SIGNED_IN,
    "catalogue:picked": SIGNED_IN,
    "catalogue:other-outline": "catalogue.change_catalogue",
    "catalogue:lettering-drawn": "catalogue.change_catalogue",
    "catalogue:share": SIGNED_IN,
    "catalogue:raised": SIGNED_IN,
    "catalogue:choices": SIGNED_IN,
    "catalogue:beside": SIGNED_IN,
    "catalogue:beside-pairs": SIGNED_IN,
    "catalogue:more-samples": SIGNED_IN,
    "catalogue:product-solid": SIGNED_IN,
    "catalogue:file": SIGNED_IN,
    "catalogue:all-files": SIGNED_IN,
    "catalogue:keep-product": "catalogue.change_catalogue",
    "catalogue:keep-file": "catalogue.change_catalogue",
    "catalogue:standards": SIGNED_IN,
    "catalogue:standard": SIGNED_IN,
    "catalogue:add-standard": "standards.change_standards",
    "catalogue:typefaces": SIGNED_IN,
    "catalogue:add-typeface": "catalogue.add_own_typeface",
    "catalogue:retire-typeface": "catalogue.add_own_typeface",
    "catalogue:shapes": SIGNED_IN,
    "catalogue:add-shape": "catalogue.add_supplied_file",
    "catalogue:shape-solid": SIGNED_IN,
}


class RightsMiddleware:
    """Lets nobody reach what the table does not give them; stands after the sign-in."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer a request."""
        return self.get_response(request)

    def process_view(
        self, request: HttpRequest, view: Callable[..., HttpResponse], args: Any, kwargs: Any
    ) -> HttpResponse | None:
        """Refuse whoever has not the right.

        Raises
        ------
        PermissionDenied : that is so
        """
        match = request.resolver_match
        right = RIGHTS_OF.get(match.view_name) if match is not None else None
        if right is None:
            raise PermissionDenied("the address stands in no table of rights")
        if right == ANYBODY:
            return None
        # Whoever is not signed in was sent to sign-in before this.
        if not request.user.is_authenticated:
            raise PermissionDenied
        if right != SIGNED_IN and not request.user.has_perm(right):
            raise PermissionDenied
        return None

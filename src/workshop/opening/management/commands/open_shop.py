"""Set the shop up: places, people, products, and unless empty the demo's products and orders."""

from __future__ import annotations

import hashlib
import json
import os
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.auth.models import User
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import transaction

import kizami
from kizami.errors import CatalogueError
from launch.state import PEOPLE, REPOSITORY, open_state
from workshop.catalogue.models import Product
from workshop.catalogue.services import take_products
from workshop.feeds.models import Feed
from workshop.intake.logos import take_logos
from workshop.intake.taking import take_list
from workshop.opening.grants import give_rights
from workshop.orders.models import OrderList
from workshop.people.models import FirstPassword
from workshop.people.places import set_up_places
from workshop.people.services import add_person
from workshop.sources.models import Source
from workshop.stations.models import Station

_PLACES = {"maren": "Owner", "desk": "Desk", "bench": "Bench", "production": "Production"}


class Command(BaseCommand):
    """Safe to run at every start: what is there already stays as it is."""

    help = "Sets up places, people and products, and the demo shop's order list on the first start."

    def add_arguments(self, parser: CommandParser) -> None:
        """With or without the demo, and whose products."""
        parser.add_argument("--empty", action="store_true", help="no demo products and orders")
        parser.add_argument("--feed", default="", help="address of the demo's shop feed")
        parser.add_argument("--products", type=Path, help="a products file to take in, TOML")

    def handle(self, *args: Any, **options: Any) -> None:
        """Bring database and static files up to date, then set the shop up in one transaction.

        One command for all three, as starting the framework takes longer than any of them.
        """
        call_command("migrate", verbosity=0)
        give_rights()
        _collect_static_files()
        demo = REPOSITORY / "demo"
        with transaction.atomic():
            set_up_places()
            _add_people(PEOPLE[:1] if options["empty"] else PEOPLE)
            if options["products"] is not None:
                _take_products(options["products"])
            elif not options["empty"] and not Product.objects.exists():
                _take_products(demo / "products.toml")
            if not options["empty"] and not OrderList.objects.exists():
                owner = User.objects.get(username="maren")
                taken = take_list((demo / "orders.csv").read_bytes(), name="orders.csv", user=owner)
                logos = sorted((demo / "logos").iterdir())
                take_logos(taken.source, [(path.name, path.read_bytes()) for path in logos], user=owner)
            Station.objects.add_shipped()
            if options["feed"] and not Feed.objects.exists():
                source, _ = Source.objects.get_or_create(name="web shop")
                Feed.objects.create(source=source, address=options["feed"])


def _add_people(names: Sequence[str]) -> None:
    """The first people, each with a password of their own, in a shop where nobody is yet."""
    if User.objects.filter(groups__isnull=False).exists():
        return
    given = os.environ.get("KIZAMI_PEOPLE")
    passwords = json.loads(given) if given else dict(open_state().people)
    for name in names:
        user, _ = add_person(name, _PLACES[name], by=None, password=passwords[name])
        # The demo's people are tried out at once; an empty shop's owner is a person with secrets.
        if len(names) > 1:
            FirstPassword.objects.filter(user=user).delete()


def _collect_static_files() -> None:
    """Collect and compress static files, unless the same ones lie there already: it takes seconds."""
    target = Path(settings.STATIC_ROOT)
    stamp = target / "collected"
    names = sorted(path for path in Path(settings.STATICFILES_DIRS[0]).rglob("*") if path.is_file())
    marks = "".join(f"{path.name} {path.stat().st_size} {path.stat().st_mtime_ns}\n" for path in names)
    digest = hashlib.sha256(f"{kizami.__version__}\n{marks}".encode()).hexdigest()
    complete = (target / "staticfiles.json").exists() and stamp.exists()
    if complete and stamp.read_text("utf-8") == digest:
        return
    call_command("collectstatic", interactive=False, verbosity=0)
    stamp.write_text(digest, "utf-8")


def _take_products(path: Path) -> None:
    try:
        take_products(path)
    except (OSError, ValueError, CatalogueError) as error:
        raise CommandError(f"{path}: {error}") from error

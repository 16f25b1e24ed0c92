"""Forgetting a customer: nothing of theirs can be found anywhere afterwards, and nothing of others is lost."""

from __future__ import annotations

import pytest
from django.core.files.storage import default_storage
from django.db import connection
from django.urls import reverse

from tests.workshop.drawn import send_on
from workshop.book.bundles import ask_for_bundle, pack
from workshop.files.models import StoredFile
from workshop.intake.logos import take_logos
from workshop.intake.taking import open_intake, take_list
from workshop.making.keeping import change_wording
from workshop.making.models import Revision
from workshop.making.tasks import make_list
from workshop.orders.models import Event, OrderLine, OrderList, Piece
from workshop.orders.stages import Stage
from workshop.retention.services import ForgettingError, forget, would_forget

pytestmark = pytest.mark.django_db
SVG = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><rect width="9" height="9"/></svg>'
LIST = (
    "order,line,product,wording,customer,logo,note,quantity\n"
    "F1,1,BADGE-TAG,Zephyrine,Quillfeather,quillcrest.svg,Quillnote,2\n"
    "F1,2,CREW-TAG,Shared,Quillfeather,,,1\n"
    "F2,1,CREW-TAG,Shared,Somebody,,,1\n"
    "F3,1,NO-SUCH,Quillwords,Quillfeather,,,1\n"
)
#: Words that are the customer's alone.
TRACES = ("quill", "zephyrine", "philippa")


@pytest.fixture
def order_list(owner, shop) -> OrderList:
    made = take_list(LIST.encode(), name="x", user=owner)
    take_logos(made.source, [("quillcrest.svg", SVG)], user=owner)
    make_list(made.pk)
    change_wording(OrderLine.objects.get(order="F1", line="1").pk, "Philippa", user=owner)
    change_wording(OrderLine.objects.get(order="F1", line="1").pk, "Zephyrine", user=owner)
    bundle = ask_for_bundle([line.pk for line in made.lines.all()], name="x", user=owner)
    pack(bundle.pk)
    open_intake(LIST.encode(), name="again", source=made.source.name, user=owner)
    return made


def traces() -> list[str]:
    """Where the customer's words still stand: every text of every row, and every stored file."""
    found = []
    with connection.cursor() as cursor:
        for table in connection.introspection.table_names():
            cursor.execute(f'SELECT lower(t::text) FROM "{table}" AS t')
            found += [table for (text,) in cursor.fetchall() if any(trace in text for trace in TRACES)]
    for file in StoredFile.objects.all():
        content = file.read().lower()
        found += [f"file {file}" for trace in TRACES if trace.encode() in content]
    return found


def test_nothing_of_theirs_is_left_and_nothing_of_others_is_lost(order_list: OrderList, owner) -> None:
    assert traces()
    theirs = OrderLine.objects.filter(customer="Quillfeather")
    send_on(theirs, Stage.SENT)
    other = OrderLine.objects.get(order="F2")
    shared = other.revision.facts["files"]
    weights = sorted(r.facts["weight_g"] for r in Revision.objects.all())
    pieces, paths = Piece.objects.count(), {file.path for file in StoredFile.objects.all()}
    said = would_forget(order_list.source, "Quillfeather")
    assert (said.lines, said.pieces, said.lists, said.aside, said.trials, said.bundles, said.logos) == (
        2, 3, 1, 1, 1, 1, 1,
    )  # fmt: skip
    assert traces()  # looking takes nothing
    forget(order_list.source, "Quillfeather", user=owner)
    assert traces() == []
    left = {file.path for file in StoredFile.objects.all()}
    assert all(default_storage.exists(path) for path in left)
    assert paths - left and not any(default_storage.exists(path) for path in paths - left)
    # Counts and costs stay.
    assert Piece.objects.count() == pieces and OrderLine.objects.filter(order="F1").count() == 2
    assert sorted(r.facts["weight_g"] for r in Revision.objects.all()) == weights
    # An equal piece of somebody else shared its files, and keeps them.
    other.refresh_from_db()
    assert (other.wording, other.customer) == ("Shared", "Somebody")
    for known in shared.values():
        assert len(StoredFile.objects.get(sha256=known["sha256"]).read()) == known["size"]
    assert Event.objects.filter(what__startswith="Forgot a customer: 2 lines with 3 pieces").exists()


def test_who_still_waits_for_pieces_is_not_forgotten(order_list: OrderList, owner) -> None:
    with pytest.raises(ForgettingError, match="not sent yet"):
        forget(order_list.source, "Quillfeather", user=owner)
    assert OrderLine.objects.filter(customer="Quillfeather").count() == 2


@pytest.mark.parametrize("name", ["", "Nobody", "Quill"])
def test_no_such_customer_is_nobody_s_loss(order_list: OrderList, owner, name: str) -> None:
    with pytest.raises(ForgettingError, match="no customer of this name"):
        forget(order_list.source, name, user=owner)


def test_the_owner_looks_before_it_is_done_and_types_the_name(owner_client, order_list: OrderList) -> None:
    send_on(OrderLine.objects.filter(customer="Quillfeather"), Stage.SENT)
    look, do = reverse("retention:look"), reverse("retention:do")
    source = order_list.source_id
    assert "Quillfeather" in owner_client.get(look, {"q": "feather"}).content.decode()
    page = owner_client.get(look, {"q": "x", "source": source, "customer": "Quillfeather"}).content.decode()
    assert "data-would" in page and "3 pieces" in page
    sent = {"source": source, "customer": "Quillfeather", "typed": "Somebody"}
    assert "another one" in owner_client.post(do, sent, follow=True).content.decode()
    assert OrderLine.objects.filter(customer="Quillfeather").exists()
    sent["typed"] = "Quillfeather"
    assert "The customer is forgotten" in owner_client.post(do, sent, follow=True).content.decode()
    assert not OrderLine.objects.filter(customer="Quillfeather").exists()
    # The pages that showed it still open.
    for line in OrderLine.objects.all():
        assert owner_client.get(line.get_absolute_url()).status_code == 200
    assert owner_client.get(reverse("book:book")).status_code == 200

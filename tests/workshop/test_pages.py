"""Pages: rights, filters in the address, bounded queries, safe output, redraws."""

from __future__ import annotations

import html
import io
import re
from collections import Counter

import numpy as np
import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from PIL import Image

from kizami.checks.kinds import kind_of
from tests.conftest import make_user
from tests.workshop.drawn import as_drawn
from tests.workshop.lists import HEADER, MIXED
from tests.workshop.shown_meshes import shown_mesh
from workshop.intake.taking import take_list
from workshop.making.tasks import make_list
from workshop.orders.models import OrderLine, OrderList

pytestmark = pytest.mark.django_db
BOOK = reverse("book:book")


@pytest.fixture
def mixed(owner) -> OrderList:
    order_list = take_list(MIXED.encode(), name="mixed.csv", user=owner)
    make_list(order_list.pk)
    return order_list


def line(order: str, number: str) -> OrderLine:
    return OrderLine.objects.get(order=order, line=number)


def wordings(page: str) -> list[str]:
    return re.findall(r"data-open>([^<]*)<", page)


def everything(order_list: OrderList) -> list[str]:
    pk = line("A1", "1").pk
    return [
        BOOK, reverse("book:rail"), reverse("intake:take"), reverse("intake:set-aside"),
        reverse("intake:set-aside-file", args=[order_list.pk]), reverse("book:bundles"),
        reverse("bench:first"), reverse("bench:piece", args=[pk]), reverse("bench:look", args=[pk]),
        reverse("bench:solid", args=[pk]), reverse("bench:picture", args=[pk]),
        reverse("bench:solid-checks", args=[pk]),
    ]  # fmt: skip


def test_every_page_asks_for_sign_in(client, mixed: OrderList) -> None:
    for address in everything(mixed):
        answer = client.get(address)
        assert answer.status_code == 302 and answer.url.startswith(reverse("people:sign-in")), address
    for address in (
        reverse("bench:keep", args=[line("A1", "1").pk]),
        reverse("book:making", args=[mixed.pk]),
    ):
        assert client.post(address).status_code == 302, address


def test_every_page_opens_for_the_owner_under_the_content_policy(owner_client, mixed: OrderList) -> None:
    for address in everything(mixed):
        answer = owner_client.get(address, follow=True)
        assert answer.status_code == 200, address
        policy = answer.headers["Content-Security-Policy"]
        assert "script-src 'self'" in policy and "unsafe" not in policy
        if answer.headers["Content-Type"].startswith("text/html"):
            page = answer.content.decode()
            assert not re.search(r"<script(?![^>]*\bsrc=)", page), address
            assert not re.search(r"\son\w+=|\sstyle=", page), address


@pytest.mark.parametrize(
    ("place", "may"),
    [
        ("Desk", {"take", "keep"}),
        ("Bench", {"keep", "zip"}),
        ("Production", {"zip"}),
        ("Owner", {"take", "keep", "zip"}),
    ],
)
def test_each_place_has_the_least_rights(client, mixed: OrderList, place: str, may: set[str]) -> None:
    from django.contrib.auth.models import User

    user = User.objects.filter(username=place.lower()).first() or make_user(place)
    client.force_login(user)
    pk = line("A1", "1").pk
    answers = {
        "take": client.get(reverse("intake:take")),
        "keep": client.post(reverse("bench:keep", args=[pk]), as_drawn(line("A1", "1"), {"wording": "Otto"})),
        "zip": client.get(reverse("book:bundles")),
    }
    assert {name for name, answer in answers.items() if answer.status_code != 403} == may


def test_posting_without_a_token_is_refused(owner, mixed: OrderList) -> None:
    from django.test import Client

    strict = Client(enforce_csrf_checks=True)
    strict.force_login(owner)
    assert strict.post(reverse("intake:take"), {"pasted": MIXED}).status_code == 403
    assert strict.post(reverse("bench:keep", args=[line("A1", "1").pk]), {"wording": "x"}).status_code == 403
    assert OrderList.objects.count() == 1


def test_held_lines_come_first_the_worst_on_top(owner_client, mixed: OrderList) -> None:
    page = owner_client.get(BOOK).content.decode()
    assert wordings(page)[:2] == ["⚓", "Maximilian-Alexander Theodor"]
    answer = owner_client.get(reverse("bench:first"))
    assert answer.url == line("A2", "2").get_absolute_url()


@pytest.mark.parametrize(
    ("query", "found"),
    [
        ("q=otto", ["Ottoline"]),
        ("q=ferry+hall", ["Halloran"]),
        ("q=a1-1", ["Ottoline"]),
        ("q=choir", ["Maximilian-Alexander Theodor", "Ottoline"]),
        ("stage=ready", ["Ottoline", "Halloran"]),
        ("q=2027-02", ["Halloran"]),
        ("stage=nonsense&list=x&page=99", None),
        ("q=%00", None),
        ("list=99999999999999999999", None),
    ],
)
def test_filters_stand_in_the_address(
    owner_client, mixed: OrderList, query: str, found: list[str] | None
) -> None:
    page = owner_client.get(f"{BOOK}?{query}")
    assert page.status_code == 200
    if found is not None:
        assert sorted(wordings(page.content.decode())) == sorted(found)


def test_an_htmx_request_gets_the_very_rows_of_the_page(owner_client, mixed: OrderList) -> None:
    token = re.compile(r'name="csrfmiddlewaretoken" value="[^"]+"')  # another one every time
    whole = token.sub("", owner_client.get(BOOK).content.decode())
    rows = token.sub("", owner_client.get(BOOK, headers={"HX-Request": "true"}).content.decode())
    assert rows.strip() in whole
    assert "<html" not in rows


def test_counts_are_of_pieces(owner_client, mixed: OrderList) -> None:
    page = owner_client.get(BOOK).content.decode()
    assert dict(re.findall(r'data-count="([\w-]+)">(\d+)<', page)) == {
        "new": "0", "held": "2", "ready": "4", "set-aside": "1",
    }  # fmt: skip


def test_queries_do_not_grow_with_the_lines(owner_client, owner, mixed: OrderList) -> None:
    def queries() -> int:
        with CaptureQueriesContext(connection) as seen:
            owner_client.get(BOOK)
        return len(seen)

    few = queries()
    text = HEADER + "".join(f"Q,{i},CREW-TAG,,Name {i % 7},1,,\n" for i in range(75))
    more = take_list(text.encode(), name="more", user=owner)
    make_list(more.pk)
    assert queries() <= few + 1
    page = owner_client.get(BOOK).content.decode()
    assert len(wordings(page)) == 60
    next_page = re.search(r'hx-get="([^"]*page=2[^"]*)"', page)
    assert next_page is not None
    # 75 lines and the four of the first list, less the sixty already shown.
    assert len(wordings(owner_client.get(next_page[1].replace("&amp;", "&")).content.decode())) == 19


@pytest.mark.parametrize("wording", ["<script>alert(1)</script>", '"><img src=x>', "{{ 7*7 }}"])
def test_wording_is_shown_as_text(owner_client, owner, shop, wording: str) -> None:
    quoted = wording.replace('"', '""')
    text = f'{HEADER}X,1,CREW-TAG,,"{quoted}",1,,"{quoted}"\n'
    order_list = take_list(text.encode(), name=wording, user=owner)
    make_list(order_list.pk)
    for address in (BOOK, order_list.lines.get().get_absolute_url(), reverse("intake:set-aside")):
        page = owner_client.get(address).content.decode()
        assert "<script>alert" not in page and "<img src=x" not in page and "49" not in wordings(page)


def test_a_check_has_one_gauge_that_names_every_place_where_it_fails(owner_client, mixed: OrderList) -> None:
    held = line("A1", "2")
    failing = [f for f in held.revision.facts["findings"] if f["level"] == "fails"]
    code, count = Counter(f["code"] for f in failing).most_common(1)[0]
    places = [f for f in failing if f["code"] == code]
    assert count > 1
    page = html.unescape(owner_client.get(held.get_absolute_url()).content.decode())
    rows = re.findall(r'<li class[^>]*data-finding="([\w-]+)" data-level="fails"', page)
    assert sorted(rows) == sorted({f["code"] for f in failing})
    also = page.split("Also ")[1].split("</li>")[0]
    assert [f"“{f['cause'][0]['text']}”" in also for f in places[1:]] == [True] * (count - 1)


def test_a_redraw_shows_the_trial_and_stores_nothing(owner_client, mixed: OrderList) -> None:
    held = line("A1", "2")
    page = owner_client.get(reverse("bench:look", args=[held.pk]), {"wording": "Max"}).content.decode()
    assert 'data-verdict="ready"' in page and "Not kept yet" in page
    assert "wording=Max" in page
    later = owner_client.get(
        reverse("bench:solid-checks", args=[held.pk]), {"wording": "Max"}
    ).content.decode()
    shown = set(re.findall(r'data-finding="([\w-]+)"', later))
    assert {"one-body", "through-holes", "right-volume", "letters-proven", "wall-thickness"} <= shown
    assert all(kind_of(code).on_solid for code in shown)
    assert 'data-verdict="ready"' in later
    held.refresh_from_db()
    assert (held.wording, held.stage, held.revisions.count()) == ("Maximilian-Alexander Theodor", "held", 1)


@pytest.mark.parametrize("wording", ["", "🙂", "x" * 500, "\u202e\x07", "A\x00B", "名前", " "])
def test_a_redraw_never_breaks(owner_client, mixed: OrderList, wording: str) -> None:
    held = line("A1", "2")
    for name in ("bench:look", "bench:solid", "bench:picture"):
        answer = owner_client.get(reverse(name, args=[held.pk]), as_drawn(held, {"wording": wording}))
        assert answer.status_code in (200, 404)
    answer = owner_client.post(reverse("bench:keep", args=[held.pk]), as_drawn(held, {"wording": wording}))
    assert answer.status_code == 302
    held.refresh_from_db()
    assert held.stage == ("ready" if wording == "A\x00B" else "held")


def test_the_solid_is_the_piece_and_is_not_sent_twice(owner_client, mixed: OrderList) -> None:
    address = reverse("bench:solid", args=[line("A1", "1").pk])
    first = owner_client.get(address)
    mesh = shown_mesh(first.content)
    assert mesh.is_watertight
    assert mesh.volume == pytest.approx(line("A1", "1").revision.facts["volume_mm3"], rel=1e-4)
    again = owner_client.get(address, headers={"If-None-Match": first.headers["ETag"]})
    assert again.status_code == 304
    trial = owner_client.get(address, {"wording": "Otto"})
    assert trial.headers["ETag"] != first.headers["ETag"]


def test_a_piece_is_cut_open_where_its_letters_go_deepest(owner_client, mixed: OrderList) -> None:
    piece = line("A1", "1")
    address = reverse("bench:cut", args=[piece.pk])
    found = owner_client.get(address).json()
    depth = {row["code"]: row["measured"] for row in piece.revision.facts["findings"]}["measured-depth"]
    assert [one["mm"] for one in found["lengths"] if one["title"] == "deep"] == pytest.approx(
        [depth], abs=0.01
    )
    assert "deep" in found["said"] and found["points"]
    # Nothing that is typed is kept, and what is set on trial is what is cut.
    deeper = owner_client.get(address, {"chosen": "1", "depth_mm": "0,6"}).json()
    assert deeper["lengths"][0]["mm"] == pytest.approx(0.6, abs=0.01)
    assert not owner_client.get(address, {"wording": "", "chosen": "1"}).json().get("points")


def test_a_piece_is_seen_as_a_picture_too(owner_client, mixed: OrderList) -> None:
    address = reverse("bench:picture", args=[line("A1", "1").pk])
    first = owner_client.get(address)
    with Image.open(io.BytesIO(first.content)) as picture:
        assert picture.size == (640, 480)
        seen = np.asarray(picture)[:, :, 3] > 127
    # It takes a good part of the picture, and its corners are clear.
    assert 0.1 < seen.mean() < 0.95 and not seen[0, 0]
    assert owner_client.get(address, headers={"If-None-Match": first.headers["ETag"]}).status_code == 304
    trial = owner_client.get(address, {"wording": "Otto"})
    assert trial.content != first.content
    assert owner_client.get(address, {"wording": ""}).status_code in (200, 404)


def test_the_rail_tells_when_lines_have_changed(owner_client, owner, shop) -> None:
    order_list = take_list(MIXED.encode(), name="x", user=owner)
    rail = reverse("book:rail")
    first = owner_client.get(rail)
    mark = re.search(r'data-mark="([\d:.]+)"', first.content.decode())
    assert mark is not None
    assert "HX-Trigger" not in owner_client.get(f"{rail}?mark={mark[1]}").headers
    make_list(order_list.pk)
    after = owner_client.get(f"{rail}?mark={mark[1]}")
    assert after.headers["HX-Trigger"] == "lines-changed"
    assert "data-asks" not in after.content.decode()


def test_a_line_made_while_the_rail_is_drawn_is_not_missed(owner_client, owner, shop, monkeypatch) -> None:
    """The list is finished between two questions of one request: the page must still ask again."""
    from workshop.book import views

    order_list = take_list(MIXED.encode(), name="x", user=owner)
    count = views.Ledger.of

    def count_then_finish(chosen: int | None):
        ledger = count(chosen)
        make_list(order_list.pk)
        return ledger

    monkeypatch.setattr(views.Ledger, "of", count_then_finish)
    for address in (reverse("book:rail"), BOOK):
        page = owner_client.get(address).content.decode()
        settled = 'data-count="new">0<' in page
        assert settled or "data-asks" in page


def test_signing_in_with_a_wrong_password_says_so(client, owner) -> None:
    answer = client.post(reverse("people:sign-in"), {"username": "owner", "password": "wrong"})
    assert "do not go together" in answer.content.decode()
    answer = client.post(reverse("people:sign-in"), {"username": "owner", "password": "ownerowner"})
    assert answer.status_code == 302

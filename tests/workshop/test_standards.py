"""Limits and materials as the shop's own: tried before they are kept, kept with a reason, taken for lines."""

from __future__ import annotations

import re
import threading
from typing import Any

import pytest
from django.contrib.auth.models import User
from django.db import IntegrityError, connection, transaction
from django.test import Client
from django.urls import reverse

from kizami.errors import CatalogueError
from kizami.processes import LIMITS_KNOWN
from kizami.standards import shipped_standards
from tests.conftest import make_user
from workshop.catalogue.models import Product
from workshop.catalogue.product_fields import fields_of
from workshop.catalogue.services import keep_standard, products_held_to
from workshop.catalogue.standards_form import limit_parts
from workshop.catalogue.versions import versions_of
from workshop.curing.models import Taking
from workshop.curing.tasks import take_cures
from workshop.intake.taking import take_list
from workshop.making.tasks import make_list
from workshop.orders.models import OrderLine
from workshop.standards.models import Standard
from workshop.standards.services import keep_edition, table_now

pytestmark = pytest.mark.django_db
NAMES = ("Ida", "Owen", "Bartholomew")
PAGE = reverse("catalogue:standard", args=["process", "lost-wax"])
LINES = reverse("curing:standard-lines", args=["process", "lost-wax"])
KEEP = reverse("curing:keep-standard", args=["process", "lost-wax"])
WHY = "Ten trial bars, the fine ones filled in"


@pytest.fixture
def lines(shop: Any, owner: User) -> list[OrderLine]:
    rows = "".join(f"V{n},CREW-TAG,{name}\n" for n, name in enumerate(NAMES))
    make_list(take_list(f"order,product,wording\n{rows}".encode(), name="v.csv", user=owner).pk)
    return fresh()


def fresh() -> list[OrderLine]:
    return list(OrderLine.objects.filter(order__startswith="V").select_related("product").order_by("pk"))


def tried(client: Client, **values: str) -> str:
    """What the page says in the end, over all portions; every piece on the way."""
    url, pages = f"{LINES}?{'&'.join(f'{k}={v}' for k, v in values.items())}", []
    while url:
        pages.append(client.get(url).content.decode())
        again = re.search(r'hx-get="([^"]+)" hx-trigger="load"', pages[-1])
        url = again[1].replace("&amp;", "&") if again else ""
    return "".join(pages)


def table(**limits: float) -> dict[str, Any]:
    now, _ = table_now("process", "lost-wax") or ({}, 0)
    return {**now, "limits": {**now["limits"], **{k.replace("_", "-"): v for k, v in limits.items()}}}


def test_what_a_limit_would_hold_is_told_and_nothing_is_kept(lines, owner_client) -> None:
    gaps = {line.wording: gap(line) for line in lines}
    between = sorted(gaps.values())[0] + 0.001
    said = tried(owner_client, **{"limit.gap-width": f"{between:.4f}"})
    held = re.findall(r'data-becomes="held".*?<strong[^>]*>([^<]+)</strong>', said, re.S)
    assert held == [name for name, measured in gaps.items() if measured < between]
    assert re.search(r"<strong[^>]*>1</strong> would be held, <strong[^>]*>0</strong> set free", said)
    assert {line.stage for line in fresh()} == {"ready"} and not Standard.objects.exists()
    assert "Nothing is otherwise" in tried(owner_client, **{"limit.gap-width": "0,3"})


def gap(line: OrderLine) -> float:
    return next(f["measured"] for f in line.revision.facts["findings"] if f["code"] == "gap-width")  # type: ignore[union-attr]


def test_kept_with_its_reason_and_taken_for_what_is_ticked_in_one_step(lines, owner, owner_client) -> None:
    worst = min(lines, key=gap)
    others = [line for line in lines if line != worst][:1]
    ticked = [f"{line.pk}.{line.edition}" for line in (worst, *others)]
    answer = owner_client.post(
        KEEP, {"edition": "0", "why": WHY, "limit.gap-width": f"{gap(worst) + 0.001:.4f}", "line": ticked}
    )
    assert answer.status_code == 302
    kept = Standard.objects.get()
    assert (kept.number, kept.why, kept.who) == (1, WHY, owner)
    taking = Taking.objects.get()
    assert WHY in taking.said and take_cures(taking.pk) == 2
    stages = {line.wording: (line.stage, line.product.version) for line in fresh()}
    left = next(line for line in lines if line not in (worst, *others))
    assert stages[worst.wording] == ("held", 2)
    assert stages[others[0].wording] == ("ready", 2) and stages[left.wording] == ("ready", 1)
    owner_client.post(reverse("curing:back", args=[taking.pk]))
    take_cures(taking.pk)
    assert {line.stage for line in fresh()} == {"ready"}
    # What it changed is told at the product too, and who did it here.
    product = Product.objects.current().get(code="CREW-TAG")
    assert any("narrowest gap at least" in one for one in versions_of(product)[0].said)
    page = owner_client.get(PAGE).content.decode()
    assert WHY in page and "instead of 0.3 mm" in page and owner.get_username() in page


def test_every_product_of_it_gets_a_version_and_no_other_does(shop, owner) -> None:
    before = {row.code: row.version for row in Product.objects.current()}
    of_it = {row.code for row in products_held_to("process", "lost-wax")}
    assert of_it and of_it != set(before)
    kept = keep_standard("process", "lost-wax", table(gap_width=0.31), why=WHY, user=owner, edition=0)
    assert kept is not None and {row.code for row in kept} == of_it
    after = {row.code: row.version for row in Product.objects.current()}
    assert {code for code in before if after[code] != before[code]} == of_it
    assert kept[0].to_spec().process.limits.of("gap-width") == 0.31
    # An older version is read as it was judged.
    older = Product.objects.get(code=kept[0].code, version=kept[0].version - 1)
    assert older.to_spec().process.limits.of("gap-width") == 0.3


@pytest.mark.django_db(transaction=True)
def test_of_two_who_keep_at_once_one_is_told(owner) -> None:
    """Both looked at the same edition; whoever comes second would undo the first unseen."""
    start, outcomes = threading.Barrier(2), []

    def keep(gap_mm: float) -> None:
        start.wait()
        try:
            keep_edition("process", "lost-wax", table(gap_width=gap_mm), why=WHY, user=None, edition=0)
            outcomes.append("kept")
        except CatalogueError as error:
            outcomes.append(str(error))
        finally:
            connection.close()

    threads = [threading.Thread(target=keep, args=[gap_mm]) for gap_mm in (0.31, 0.32)]
    [thread.start() for thread in threads]
    [thread.join() for thread in threads]
    assert sorted(said[:4] for said in outcomes) == ["Some", "kept"] and Standard.objects.count() == 1


def test_the_same_again_is_no_edition(shop, owner) -> None:
    assert keep_standard("process", "lost-wax", table(), why="", user=owner, edition=0) is None
    keep_standard("process", "lost-wax", table(gap_width=0.4), why=WHY, user=owner, edition=0)
    assert keep_standard("process", "lost-wax", table(gap_width=0.4), why=WHY, user=owner, edition=1) is None
    assert Standard.objects.count() == 1


def test_back_to_what_ships_is_an_edition_and_the_products_are_what_they_were(shop, owner) -> None:
    first = Product.objects.current().get(code="CREW-TAG")
    keep_standard("process", "lost-wax", table(gap_width=0.4), why=WHY, user=owner, edition=0)
    keep_standard("process", "lost-wax", table(gap_width=0.3), why="a new caster", user=owner, edition=1)
    now = Product.objects.current().get(code="CREW-TAG")
    assert now.version == first.version + 2 and now.standards == {} and now.to_spec() == first.to_spec()


@pytest.mark.parametrize(
    ("values", "said"),
    [
        pytest.param({"why": "no"}, "Say in 8 to 200 characters why", id="no-reason"),
        pytest.param({"why": "x" * 201}, "Say in 8 to 200 characters why", id="reason-too-long"),
        pytest.param({"limit.gap-width": "wide"}, "“wide” is not a number", id="words"),
        pytest.param({"limit.gap-width": ""}, "a process must say what it holds", id="nothing"),
        pytest.param({"limit.gap-width": "-1"}, "Narrowest gap", id="negative"),
        pytest.param({"edition": "7"}, "Somebody else changed it meanwhile", id="another-edition"),
        pytest.param({"edition": "9" * 30}, "Nothing was kept yet", id="no-edition"),
    ],
)
def test_what_can_t_be_kept_is_told_and_nothing_is(
    shop, owner_client, values: dict[str, str], said: str
) -> None:
    if said == "Nothing was kept yet":
        keep_edition("process", "lost-wax", table(gap_width=0.5), why=WHY, user=None)
    count = Standard.objects.count()
    answer = owner_client.post(KEEP, {"edition": "0", "why": WHY, "limit.gap-width": "0.4", **values})
    assert answer.status_code == 422 and said in answer.content.decode()
    assert Standard.objects.count() == count and {row.version for row in Product.objects.all()} == {1}


def test_inches_and_commas_are_understood(shop, owner_client) -> None:
    owner_client.post(KEEP, {"edition": "0", "why": WHY, "limit.gap-width": "0,02 in"})
    assert Standard.objects.now().process("lost-wax").limits.of("gap-width") == pytest.approx(0.508)


def test_a_product_that_would_be_looser_than_the_new_limit_stops_it_by_name(shop, owner) -> None:
    row = Product.objects.current().get(code="CREW-TAG")
    Product.objects.put({**row.table, "limits": {"gap-width": 0.35}})
    with pytest.raises(CatalogueError, match=r"CREW-TAG.*lets more pass"):
        keep_standard("process", "lost-wax", table(gap_width=0.5), why=WHY, user=owner, edition=0)
    assert not Standard.objects.exists()


def test_a_product_s_own_limit_is_changed_on_its_page_and_looser_asks_why(shop, owner_client) -> None:
    keep = reverse("catalogue:keep-product", args=["CREW-TAG"])
    answer = owner_client.post(keep, {"limits.gap-width": "0.2"}, follow=True)
    assert "lets more pass" in answer.content.decode()
    owner_client.post(keep, {"limits.gap-width": "0.2", "looser_because": "Forty cast, none filled in."})
    product = Product.objects.current().get(code="CREW-TAG")
    assert product.version == 2 and product.to_spec().process.limits.of("gap-width") == 0.2
    assert product.to_spec().looser_because == "Forty cast, none filled in."


def test_a_looser_limit_is_printed_on_what_leaves(shop, owner) -> None:
    row = Product.objects.current().get(code="CREW-TAG")
    reason = "Forty cast, none filled in."
    Product.objects.put({**row.table, "limits": {"gap-width": 0.2}, "looser_because": reason})
    made = take_list(b"order,product,wording\nV9,CREW-TAG,Ida\n", name="v.csv", user=owner)
    make_list(made.pk)
    line = OrderLine.objects.get(order="V9")
    assert line.revision is not None and reason in line.revision.facts["looser"]


def test_a_material_of_the_shop_s_own_is_begun_weighed_and_named_by_lists(shop, owner, owner_client) -> None:
    owner_client.post(
        reverse("catalogue:add-standard"),
        {"like": "material sterling-silver", "code": "rose-gold-14k", "name": "Rose gold 14 k"},
    )
    form = {
        "edition": "1", "why": "as our supplier states it", "density": "13,2", "colour": "#C98F7A",
        "melts_from": "880", "melts_to": "900",
        "metal": ["fine gold", "fine silver", "copper", ""], "share": ["58.5", "9", "32.5", ""],
    }  # fmt: skip
    owner_client.post(reverse("curing:keep-standard", args=["material", "rose-gold-14k"]), form)
    rose = Standard.objects.now().material("rose-gold-14k")
    assert (rose.density_g_cm3, rose.colour, rose.melts_c) == (13.2, "#c98f7a", (880.0, 900.0))
    assert dict(rose.parts) == {"fine gold": 0.585, "fine silver": 0.09, "copper": 0.325}
    row = Product.objects.current().get(code="CREW-TAG")
    Product.objects.put({**row.table, "materials": ["rose-gold-14k"]})
    text = b"order,product,wording,material\nV9,CREW-TAG,Ida,Rose gold 14 k\n"
    make_list(take_list(text, name="v.csv", user=owner).pk)
    facts = OrderLine.objects.get(order="V9").revision.facts  # type: ignore[union-attr]
    assert facts["material"] == "rose-gold-14k"
    assert facts["weight_g"] == pytest.approx(facts["volume_mm3"] * 13.2e-3, abs=1e-3)


@pytest.mark.parametrize(
    ("values", "said"),
    [
        pytest.param({"code": "bronze"}, "There is a material bronze already", id="twice"),
        pytest.param({"code": "Rose gold"}, "a code has 1 to 40 small letters", id="code"),
        pytest.param({"like": "material unobtainium"}, "Choose what it begins as", id="like-nothing"),
        pytest.param({"like": ""}, "Choose what it begins as", id="nothing"),
    ],
)
def test_what_can_t_be_begun_is_told(shop, owner_client, values: dict[str, str], said: str) -> None:
    form = {"like": "material bronze", "code": "rose", "name": "Rose", **values}
    page = owner_client.post(reverse("catalogue:add-standard"), form, follow=True)
    assert said in page.content.decode() and not Standard.objects.exists()


def test_what_is_out_of_use_stays_with_the_products_that_have_it(shop, owner_client) -> None:
    owner_client.post(KEEP, {"edition": "0", "why": "the caster closed", "retired": "on"})
    assert Standard.objects.out_of_use() == {"lost-wax"}
    row = Product.objects.current().get(code="CREW-TAG")
    assert Product.objects.put({**row.table, "name": "Another name"}).to_spec().process.code == "lost-wax"
    own = dict(next(f for f in fields_of(row.table) if f.name == "process").choices)
    cut = Product.objects.current().filter(table__process="laser-ply")[0]
    other = dict(next(f for f in fields_of(cut.table) if f.name == "process").choices)
    assert "lost-wax" in own and "lost-wax" not in other
    with pytest.raises(CatalogueError, match="lost-wax is out of use"):
        Product.objects.put({**row.table, "code": "NEW-TAG"})


def test_the_form_says_all_that_it_was_given_back(shop, owner_client) -> None:
    """Every limit typed as it is shown is no change."""
    rows = [row for _, part in limit_parts(shipped_standards().processes["lost-wax"]) for row in part]
    assert {row.code for row in rows} == set(LIMITS_KNOWN)
    form = {f"limit.{row.code}": "" if row.value is None else f"{row.value:g}" for row in rows}
    page = owner_client.post(KEEP, {"edition": "0", "why": WHY, **form}, follow=True)
    assert "Nothing was otherwise" in page.content.decode() and not Standard.objects.exists()


def test_there_is_one_current_edition_and_none_without_a_reason(shop) -> None:
    keep_edition("process", "lost-wax", table(gap_width=0.4), why=WHY, user=None)
    for values in ({"number": 2, "why": "twice"}, {"number": 3, "why": "", "is_current": False}):
        with pytest.raises(IntegrityError), transaction.atomic():
            Standard.objects.create(kind="process", code="lost-wax", table=table(), **values)


def test_pages_ask_no_more_the_more_there_is(
    shop, owner, owner_client, django_assert_max_num_queries
) -> None:
    for number in range(8):
        own = {**(table_now("material", "bronze") or ({},))[0], "name": f"Bronze {number}"}
        keep_edition("material", f"bronze-{number}", own, why=WHY, user=owner)
    with django_assert_max_num_queries(14):
        owner_client.get(reverse("catalogue:standards"))
    with django_assert_max_num_queries(16):
        owner_client.get(PAGE)


def test_whoever_may_not_change_them_sees_them_without_a_button(shop, client) -> None:
    client.force_login(make_user("Desk"))
    page = client.get(PAGE).content.decode()
    assert "Narrowest gap" in page and 'name="why"' not in page
    assert client.post(KEEP, {"edition": "0", "why": WHY, "limit.gap-width": "0.4"}).status_code == 403
    assert not Standard.objects.exists()

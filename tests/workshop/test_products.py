"""The Catalogue's products: tried on a wall of names, kept as versions, lines keep theirs."""

from __future__ import annotations

import html
import json
import re
from urllib.parse import urlencode

import pytest
from django.urls import reverse

from kizami.pieces.raising import Change
from kizami.products.product_file import product_tables, write_products
from tests.conftest import make_user
from tests.workshop.shown_meshes import shown_mesh
from workshop.catalogue import portions, share_views
from workshop.catalogue.models import Product
from workshop.catalogue.product_fields import fields_of
from workshop.catalogue.product_form import changed_table
from workshop.catalogue.samples import SAMPLE_NAMES, kept_sample
from workshop.intake.taking import take_list
from workshop.making.tasks import make_list
from workshop.orders.models import OrderLine
from workshop.serving import limit_request_line

pytestmark = pytest.mark.django_db


def address(name: str, code: str = "CREW-TAG") -> str:
    return reverse(f"catalogue:{name}", args=[code])


def whole(client, url: str, values: dict[str, str] | None = None) -> str:
    """A page with every portion that it asks for, in the place of what asked."""
    page = client.get(url, values or {}).content.decode()
    while asked := re.search(r'<(li|div)[^>]* hx-get="([^"]+)" hx-trigger="load".*?</\1>', page, re.S):
        page = page.replace(asked[0], client.get(html.unescape(asked[2])).content.decode())
    return re.sub(r">\s+", ">", page).strip()


def wall(client, **values: str) -> dict[str, str]:
    page = whole(client, address("wall"), {k.replace("__", "."): v for k, v in values.items()})
    return dict(
        zip(re.findall(r'aria-label="“([^”]*)”', page), re.findall(r'data-fits="(\w+)"', page), strict=True)
    )


def current(code: str = "CREW-TAG") -> Product:
    return Product.objects.current().get(code=code)


def test_every_product_of_the_shop_is_listed_with_a_name_on_it(owner_client) -> None:
    page = owner_client.get(reverse("catalogue:products")).content.decode()
    codes = set(Product.objects.current().values_list("code", flat=True))
    assert set(re.findall(r'data-product="([^"]+)"', page)) == codes
    # None was ever drawn: each asks for its own drawing, and has it from then on.
    assert 'class="strip"' not in page
    asked = re.findall(r'hx-get="([^"]+)" hx-trigger="revealed"', page)
    assert len(asked) == len(codes)
    for one in asked[:3]:
        assert owner_client.get(one).content.decode().count('class="strip"') == 1
    again = owner_client.get(reverse("catalogue:products")).content.decode()
    assert again.count('class="strip"') == 3


def test_a_new_version_of_a_product_is_drawn_anew(owner_client) -> None:
    first = kept_sample(current())
    Product.objects.put(changed_table(current().table, {"fit.greatest_height_mm": "5"}))
    assert kept_sample(current()).height_mm == pytest.approx(5.0) != first.height_mm


@pytest.mark.parametrize(
    "code", ["CREW-TAG", "KEEL-RING", "TALLY-BAND", "SHORE-BEAD", "BERTH-SIGN", "FINDER-TAG", "PLACE-TAG"]
)
def test_every_kind_of_product_opens_with_its_wall(owner_client, code: str) -> None:
    page = whole(owner_client, address("product", code))
    assert page.count("data-fits=") >= 2
    product = current(code)
    for field in fields_of(product.table):
        assert f'name="{field.name}"' in page


def test_the_wall_follows_the_values_and_stores_nothing(owner_client) -> None:
    before = wall(owner_client)
    assert len(before) == len(SAMPLE_NAMES)
    assert before["Bo"] == "yes" and before["Maximilian-Alexander"] == "yes"
    shorter = wall(owner_client, blank__length_mm="32")
    assert shorter["Bo"] == "yes" and shorter["Maximilian-Alexander"] == "no"
    assert current().version == 1


@pytest.mark.parametrize(
    ("values", "says"),
    [
        ({"blank.length_mm": "long"}, "Length: “long” is not a number"),
        ({"blank.length_mm": "-5"}, "from 5 to 300"),
        ({"blank.corner_mm": "20"}, "Rounded corner is more than half"),
        ({"fit.lowest_height_mm": "40"}, "Letters at least is above letters at most"),
        ({"typeface": "comic"}, "“comic” is none of"),
        ({"treatment.depth_mm": "nan"}, "“nan” is not a number"),
    ],
)
def test_values_that_can_not_be_are_said_and_nothing_is_kept(owner_client, values: dict, says: str) -> None:
    for name in ("wall", "share"):
        assert says in owner_client.get(address(name), values).content.decode()
    answer = owner_client.post(address("keep-product"), values, follow=True).content.decode()
    assert "Nothing was kept" in answer
    assert current().version == 1


def test_a_kept_product_is_a_new_version_and_lines_keep_theirs(owner_client, owner) -> None:
    made = take_list(b"order,product,wording\nA1,CREW-TAG,Ottoline\n", name="x.csv", user=owner)
    make_list(made.pk)
    owner_client.post(address("keep-product"), {"blank.length_mm": "80"})
    product = current()
    assert (product.version, product.table["blank"]["length_mm"]) == (2, 80.0)
    line = OrderLine.objects.get(order="A1")
    assert (line.product.version, line.to_product().blank.length_mm) == (1, 58.0)  # type: ignore[union-attr]


def test_keeping_what_was_not_changed_makes_no_version(owner_client) -> None:
    """For every product of the shop, from the fields as its page has them."""
    for product in Product.objects.current():
        page = html.unescape(owner_client.get(address("product", product.code)).content.decode())
        sent = {}
        for field in fields_of(product.table):
            if field.is_list:
                sent[field.name] = [field.as_list]
            elif field.is_several or field.is_ordered:
                sent[field.name] = ["", *field.value]
            elif field.is_number:
                shown = re.search(rf'name="{re.escape(field.name)}" value="([^"]*)"', page)
                assert shown, field.name
                sent[field.name] = [shown[1]]
            else:
                sent[field.name] = [str(field.value)]
        assert changed_table(product.table, sent) == product.table, product.code
        # A page sends what differs; even where everything did, one address would hold it.
        assert len(urlencode(sent, doseq=True)) < limit_request_line, product.code
    owner_client.post(address("keep-product", product.code), sent)
    assert current(product.code).version == 1


def test_the_share_of_real_names_is_told_with_those_that_do_not_fit(owner_client) -> None:
    few, many = (whole(owner_client, address("share"), {"blank.length_mm": mm}) for mm in ("35", "100"))
    percent = [int(re.search(r">(\d+) %", page)[1]) for page in (few, many)]  # type: ignore[index]
    assert percent[0] < percent[1]
    # A hundred are tried, so that the share and the names that are listed must agree.
    assert [page.count("data-misfit") for page in (few, many)] == [100 - one for one in percent]
    assert "lettering height" in few


def told(page: str) -> tuple[str, int, list[int]]:
    """The percent, of how many names, and the places of those that missed, as a page last tells them."""
    percent, names = re.findall(r"([\d.]+) %</strong>\s*of (\d+) real names", page)[-1]
    mask = int(re.findall(r'name="missed" value="(\w+)"', page)[-1], 16)
    return percent, int(names), [place for place in range(1000) if mask >> place & 1]


def going_on(page: str) -> re.Match[str] | None:
    """What a page asks for after a pause, by itself."""
    return re.search(
        r'<div id="share-now"[^>]* hx-get="([^"]+)" hx-trigger="load delay:\d+ms".*?</div>', page, re.S
    )


def rested(client, page: str) -> str:
    """A page that nobody changes, until it asks for nothing more."""
    while asked := going_on(page):
        page = page.replace(asked[0], client.get(html.unescape(asked[1])).content.decode())
    return page


def test_the_share_goes_on_to_many_names_by_itself_and_only_the_first_misfits_are_listed(
    owner_client, monkeypatch
) -> None:
    monkeypatch.setattr(share_views, "MANY_TRIED", 160)
    monkeypatch.setattr(share_views, "_MOST_SHOWN", 30)
    few = whole(owner_client, address("share"), {"blank.length_mm": "35"})
    many = rested(owner_client, few)
    _, count, missed_of_few = told(few)
    percent, all_names, missed = told(many)
    assert (count, all_names) == (100, 160)
    # What was tried stands; names are spread over the same row, and none is tried twice.
    assert [place for place in missed if place < 100] == missed_of_few and len(missed) > len(missed_of_few)
    assert 0 <= 100 * (160 - len(missed)) / 160 - float(percent) < 0.1
    assert many.count("data-misfit") == 30 and f"{len(missed) - 30} more" in many
    # Single letters, and what would raise it, are asked for once.
    assert many.count("data-never") == few.count("data-never") and many.count('id="raised"') == 1
    names = share_views._names(160)
    assert len(set(names)) == 160 and names[:100] == share_views._names(100)


def test_going_on_is_stopped_where_it_stands_and_taken_up_there(owner_client, monkeypatch) -> None:
    monkeypatch.setattr(share_views, "MANY_TRIED", 130)
    few = whole(owner_client, address("share"), {"blank.length_mm": "35"})
    stop = re.search(r'hx-get="([^"]*rest=1[^"]*)"', few)
    assert stop is not None
    stopped = owner_client.get(html.unescape(stop[1])).content.decode()
    assert told(stopped) == told(few)
    assert going_on(stopped) is None and "hx-trigger" not in stopped
    further = re.search(r'hx-get="([^"]*)"', stopped)
    assert further is not None
    again = owner_client.get(html.unescape(further[1])).content.decode()
    assert told(rested(owner_client, again)) == told(rested(owner_client, few))


@pytest.mark.parametrize(
    ("missed", "names", "says"),
    [
        (0, 1000, "100.0"),
        (4, 1000, "99.6"),
        (1, 1000, "99.9"),
        (1, 300, "99.6"),
        (1, 100, "99"),
        (0, 100, "100"),
    ],
)
def test_all_names_are_said_to_fit_only_where_all_do(missed: int, names: int, says: str) -> None:
    assert share_views._percent((names - missed) / names, names) == says


@pytest.mark.parametrize("missed", ["", "-1", "zz", "f" * 5000, "²"])
def test_places_that_a_page_never_wrote_do_no_harm(owner_client, missed: str) -> None:
    page = owner_client.get(address("share"), {"start": "100", "missed": missed, "many": "1"})
    percent, names, places = told(page.content.decode())
    assert names > 100 and 0 <= float(percent) <= 100 and len(places) <= names


def test_what_would_raise_a_share_is_told_from_as_many_names_as_the_share(owner_client, monkeypatch) -> None:
    asked: list[int] = []
    monkeypatch.setattr(share_views, "_worth", lambda _table, missed, count: asked.append(count) or 0.5)
    page = whole(owner_client, address("raised"), {"names": "140", "missed": "f"})
    assert set(asked) == {140} and "instead of" not in page
    asked.clear()
    page = whole(owner_client, address("raised"), {"names": "140", "missed": "0"})
    assert not asked and "All of 140 names fit" in page


def test_a_share_that_is_of_other_values_is_tried_again_and_not_for_other_words(owner_client) -> None:
    def again(**values: str) -> bool:
        page = owner_client.get(address("wall"), {k.replace("__", "."): v for k, v in values.items()})
        return 'id="share"' in page.content.decode()

    assert again(blank__length_mm="40") and not again(said="Ottoline") and not again()
    shown = owner_client.get(address("share"), {"blank.length_mm": "40"}).content.decode()
    share_of = re.search(r'name="share_of" value="(\w+)"', shown)[1]  # type: ignore[index]
    assert not again(blank__length_mm="40", share_of=share_of)
    assert not again(blank__length_mm="40", said="Ottoline", share_of=share_of)
    assert again(blank__length_mm="41", share_of=share_of)
    assert again(share_of=share_of), "back to what is kept"


def test_the_share_with_no_change_is_the_share(owner_client, monkeypatch) -> None:
    """Of a product that cures some names by itself, too: they are spoilt by no change."""
    # Of these the second one is cured by itself.
    names = share_views._names(100)[:10]
    monkeypatch.setattr(share_views, "NAMES_TRIED", len(names))
    monkeypatch.setattr(share_views, "_names", lambda _: names)
    page = whole(owner_client, address("share", "NAME-PLATE"))
    *_, missed = told(page)
    assert page.count("data-misfit") == len(missed)
    assert share_views._worth(current("NAME-PLATE").table, missed, 10) == pytest.approx(1 - len(missed) / 10)
    plain = changed_table(current("NAME-PLATE").table, {"fit.remedies": [""]})
    assert not plain["fit"].get("remedies")
    assert share_views._worth(plain, missed, 10) < 1 - len(missed) / 10


def test_of_several_values_that_raise_it_as_far_the_gentlest_is_offered() -> None:
    changes = [Change(name="fit.lowest_height_mm", old=4.0, new=new) for new in (3.8, 3.5, 3.2)]
    changes += [Change(name="typeface", old="a", new=new) for new in ("b", "c")]
    shares = {0: 0.9, 1: 0.9, 2: 0.95, 3: 0.9, 4: 0.9}
    assert share_views.worth_offering(changes, shares, before=0.8) == [2, 0, 3, 4]
    assert share_views.worth_offering(changes, shares, before=0.92) == [2]


@pytest.mark.parametrize("name", ["share", "wall"])
def test_a_request_works_on_few_trials_and_the_next_goes_on_where_it_ended(
    owner_client, monkeypatch, name: str
) -> None:
    at_once = whole(owner_client, address(name), {"blank.length_mm": "40"})
    monkeypatch.setattr(portions, "_MOST_S", 0.0)
    first = owner_client.get(address(name), {"blank.length_mm": "40"}).content.decode()
    assert 'hx-trigger="load"' in first and first.count("data-fits") <= 1
    assert whole(owner_client, address(name), {"blank.length_mm": "40"}) == at_once


@pytest.mark.parametrize("start", ["-1", "many", "9999999999999999", "²"])
def test_a_portion_that_is_none_does_no_harm(owner_client, start: str) -> None:
    for name in ("share", "more-samples"):
        assert owner_client.get(address(name), {"start": start, "missed": start}).status_code == 200


@pytest.mark.parametrize("place", ["Desk", "Bench", "Production"])
def test_all_may_look_but_only_the_owner_may_keep(client, shop, place: str) -> None:
    client.force_login(make_user(place))
    assert client.get(address("product")).status_code == 200
    assert "Keep as a new version" not in client.get(address("product")).content.decode()
    assert client.post(address("keep-product"), {"blank.length_mm": "80"}).status_code == 403


def test_the_catalogue_asks_for_sign_in(client, shop) -> None:
    for path in (reverse("catalogue:products"), *(address(n) for n in ("product", "wall", "share"))):
        assert client.get(path).status_code == 302


def test_a_product_that_is_not_there_is_not_found(owner_client) -> None:
    assert owner_client.get(address("product", "NO-SUCH")).status_code == 404


def test_every_product_reads_back_exactly_from_its_file(owner_client) -> None:
    text = owner_client.get(reverse("catalogue:all-files")).content.decode()
    tables = {t["code"]: t for t in product_tables(text)}
    for row in Product.objects.current():
        assert tables[row.code] == row.table
        assert json.dumps(tables[row.code], sort_keys=True) == json.dumps(row.table, sort_keys=True)
    owner_client.post(reverse("catalogue:keep-file"), {"text": text})
    assert set(Product.objects.values_list("version", flat=True)) == {1}


def test_a_changed_file_becomes_a_version_and_a_new_code_a_product(owner_client) -> None:
    page = owner_client.get(address("file")).content.decode()
    text = html.unescape(re.search(r"<textarea[^>]*>(.*)</textarea>", page, re.S)[1])  # type: ignore[index]
    assert product_tables(text) == [current().table]
    changed = text.replace('"CREW-TAG"', '"CREW-TAG-LONG"').replace("length_mm = 58.0", "length_mm = 90.0")
    assert changed != text
    answer = owner_client.post(reverse("catalogue:keep-file"), {"text": changed + text})
    assert answer.url == address("product", "CREW-TAG-LONG")
    assert current("CREW-TAG-LONG").table["blank"]["length_mm"] == 90.0
    assert current().version == 1


@pytest.mark.parametrize("broken", ["not toml [", "[[product]]\ncode = 'X'", "x = 1", "product = [1]"])
def test_one_product_that_can_not_be_keeps_all_others_out(owner_client, broken: str) -> None:
    good = write_products([{**current().table, "code": "NEW-TAG"}])
    before = Product.objects.count()
    answer = owner_client.post(reverse("catalogue:keep-file"), {"text": f"{good}\n{broken}"})
    assert answer.status_code == 422
    assert "Nothing was kept" in answer.content.decode()
    # What was written is still there to be put right.
    assert "NEW-TAG" in answer.content.decode()
    assert Product.objects.count() == before


def test_another_treatment_is_tried_with_usual_values(owner_client) -> None:
    for kind in ("raised", "in recess", "pierced", "scored"):
        changed = changed_table(current().table, {"treatment.kind": kind})
        assert changed["treatment"]["kind"] == kind
        page = whole(owner_client, address("wall"), {"treatment.kind": kind})
        assert page.count("data-fits=") == len(SAMPLE_NAMES)


#: What the treatment of each measures at the lettering; all of it is typed there.
_SECTIONED = {
    "CREW-TAG": {"depth_mm"},
    "KEEL-RING": {"height_mm", "root_mm"},
    "TILLER-GRIP": {"height_mm", "root_mm"},
    "BERTH-SIGN": {"thickness_mm"},
    "PEBBLE-FOB": {"depth_mm"},
}


@pytest.mark.parametrize("code", _SECTIONED)
def test_a_product_is_shown_in_section_and_solid(owner_client, code: str) -> None:
    drawing = owner_client.get(address("section", code)).content.decode()
    assert set(re.findall(r'data-place="(\w+)"', drawing)) == _SECTIONED[code]
    data = owner_client.get(address("product-solid", code)).content
    solid = shown_mesh(data)
    assert solid.is_volume


@pytest.mark.parametrize("place", ["Desk", "Bench", "Production"])
def test_only_the_owner_may_take_products_in(client, shop, place: str) -> None:
    client.force_login(make_user(place))
    assert client.get(address("file")).status_code == 200
    assert client.post(reverse("catalogue:keep-file"), {"text": "x"}).status_code == 403


def test_what_is_added_is_asked_for_until_it_is_kept_and_more_can_follow(owner_client) -> None:
    page = owner_client.get(address("product")).content.decode()
    mark = page.partition('name="fields" value="')[2].partition('"')[0]
    assert mark
    asked = {"fields": mark, "ornaments.new": ["border"]}
    first = owner_client.get(address("wall"), asked, headers={"HX-Request": "true"}).content.decode()
    assert first.count('name="ornaments.new" value="border"') == 1
    assert '<select id="f-ornaments.new"' in first and 'name="ornaments.0.inset_mm"' in first
    again = first.partition('name="fields" value="')[2].partition('"')[0]
    assert again != mark
    # As the page sends it then: the one that was added, the new one, and the mark of the fields that it has.
    asked = {"fields": again, "ornaments.new": ["border", "slot"]}
    both = owner_client.get(address("wall"), asked, headers={"HX-Request": "true"}).content.decode()
    assert both.count('name="ornaments.new" value=') == 2 and 'name="ornaments.1.length_mm"' in both
    # Asked once more with its own mark, no field comes anew.
    same = {**asked, "fields": both.partition('name="fields" value="')[2].partition('"')[0]}
    assert 'id="fields"' not in owner_client.get(address("wall"), same).content.decode()
    owner_client.post(address("keep-product"), {"ornaments.new": ["border", "slot"]})
    assert [row["kind"] for row in current().table["ornaments"]] == ["border", "slot"]

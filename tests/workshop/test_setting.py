"""The bench sets one piece otherwise; the Catalogue shows typefaces and takes the shop's own."""

from __future__ import annotations

import re
from importlib.resources import files

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from kizami.lettering.shipped import shipped_typefaces
from tests.conftest import make_user
from tests.workshop.drawn import as_drawn
from workshop.catalogue.models import ShopTypeface, TypefaceSent
from workshop.catalogue.typefaces_sent import look_at_typeface, take_up
from workshop.files.models import StoredFile
from workshop.intake.taking import take_list
from workshop.making.tasks import make_list
from workshop.orders.models import OrderLine

pytestmark = pytest.mark.django_db
LIST = "order,line,product,size,wording\nB1,1,NAME-PLATE,,Ivy\nB1,2,CHOIR-RING,54,Ottoline\n"


@pytest.fixture
def plate(owner) -> OrderLine:
    made = take_list(LIST.encode(), name="x.csv", user=owner)
    make_list(made.pk)
    return OrderLine.objects.get(order="B1", line="1")


def look(client, line: OrderLine, **setting: str) -> str:
    address = reverse("bench:look", args=[line.pk])
    return client.get(address, {"wording": line.wording, "chosen": "1", **setting}).content.decode()


def keep(client, line: OrderLine, wording: str | None = None, **setting: str) -> OrderLine:
    sent = {"wording": line.wording if wording is None else wording, "chosen": "1", **setting}
    assert client.post(reverse("bench:keep", args=[line.pk]), as_drawn(line, sent)).status_code == 302
    return OrderLine.objects.get(pk=line.pk)


def height(line: OrderLine) -> float:
    assert line.revision is not None
    return float(line.revision.height_mm)


def test_a_setting_on_trial_is_drawn_and_said_and_stores_nothing(owner_client, plate: OrderLine) -> None:
    page = look(owner_client, plate, height_mm="5", typeface="sacramento")
    assert "Not kept yet" in page and "lower" in page
    again = OrderLine.objects.get(pk=plate.pk)
    assert (again.choices, again.revisions.count()) == (plate.choices, 1)


def test_what_is_kept_is_made_and_the_product_s_own_comes_back_when_emptied(
    owner_client, plate: OrderLine
) -> None:
    before, mark = height(plate), plate.revision.fingerprint  # type: ignore[union-attr]
    lower = keep(owner_client, plate, height_mm="5.5")
    assert height(lower) == pytest.approx(5.5) != before
    assert lower.choices == {"height_mm": 5.5}
    back = keep(owner_client, lower)
    assert back.choices == {}
    assert back.revision is not None and back.revision.fingerprint == mark
    assert back.revisions.count() == 3


@pytest.mark.parametrize(
    ("setting", "kept"),
    [
        ({"typeface": "sacramento"}, {"typeface": "sacramento"}),
        ({"typeface": "pacifico"}, {}),
        ({"material": "bronze"}, {"material": "bronze"}),
        ({"tracking": "0,1"}, {"tracking": 0.1}),
        ({"thicken_by_mm": "0.1"}, {"thicken_by_mm": 0.1}),
        ({"shape": "on an arc", "shape_amount": "40"}, {"shape": "on an arc", "shape_amount": 40.0}),
        ({"shape": "round"}, {"shape": "round", "shape_amount": 100.0}),
        ({"shape": "straight", "shape_amount": "9"}, {"shape": "straight", "shape_amount": 0.0}),
    ],
    ids=["typeface", "the product's own", "material", "spacing", "weight", "arc", "usual amount", "straight"],
)  # fmt: skip
def test_every_field_of_the_setting(owner_client, plate: OrderLine, setting: dict, kept: dict) -> None:
    line = keep(owner_client, plate, **setting)
    assert line.choices == kept
    made_otherwise = line.revision.fingerprint != plate.revision.fingerprint  # type: ignore[union-attr]
    # A straight line is what the product has anyway.
    assert made_otherwise == bool(kept and kept.get("shape") != "straight")


def test_lines_are_broken_at_the_words_that_are_chosen(owner_client, plate: OrderLine) -> None:
    """What there is to choose follows the words on trial; other words are broken as they fit."""
    offered = look(owner_client, plate, wording="Anna Maria Costa")
    assert ">Anna / Maria Costa</option>" in offered and ">Anna Maria / Costa</option>" in offered
    line = keep(owner_client, plate, wording="Anna Maria Costa", breaks="1 2")
    assert line.choices == {"breaks": "1 2"}
    kept = owner_client.get(reverse("bench:piece", args=[line.pk])).content.decode()
    assert '<option value="1 2" selected>Anna / Maria Costa</option>' in kept
    assert "Maria / Costa" not in look(owner_client, line, wording="Bo")
    assert "1 2 (of other words)" in look(owner_client, line, wording="Bo", breaks="1 2")


@pytest.mark.parametrize(
    ("setting", "said"),
    [
        ({"breaks": "none"}, "how many words stand on each line"),
        ({"height_mm": "a lot"}, "is not a number"),
        ({"height_mm": "1000"}, "from 0.5 to 100"),
        ({"height_mm": "nan"}, "is not a number"),
        ({"height_mm": "8 in"}, "203.2 mm"),
        ({"turned_deg": "400"}, "from -180 to 180"),
        ({"typeface": "no-such-hand"}, "no typeface"),
        ({"shape": "pretzel"}, "no form"),
    ],
)
def test_a_value_that_may_not_be_set_is_said_and_nothing_is_kept(
    owner_client, plate: OrderLine, setting: dict, said: str
) -> None:
    assert said in look(owner_client, plate, **setting)
    line = keep(owner_client, plate, wording="Other", **setting)
    assert (line.wording, line.choices) == ("Ivy", {})
    for name in ("bench:solid", "bench:solid-checks"):
        answer = owner_client.get(reverse(name, args=[plate.pk]), {"chosen": "1", **setting})
        assert answer.status_code == 404


def test_a_typeface_that_the_product_does_not_offer_is_set_and_told(owner_client, plate: OrderLine) -> None:
    assert "Outside the product" in look(owner_client, plate, typeface="noto-sans")
    line = keep(owner_client, plate, typeface="noto-sans")
    assert line.to_product().typeface == "noto-sans"
    page = owner_client.get(line.get_absolute_url()).content.decode()
    assert "Outside the product" in page


def test_lengths_are_read_in_inches_and_kept_in_millimetres(owner_client, plate: OrderLine) -> None:
    line = keep(owner_client, plate, height_mm="0,2 in")
    assert line.choices == {"height_mm": 5.08} and height(line) == pytest.approx(5.08)


def test_lettering_moved_by_hand_is_drawn_where_it_is_put(owner_client, owner) -> None:
    made = take_list(b"order,line,product,size,wording\nH1,1,CREW-TAG,,Owen\n", name="y.csv", user=owner)
    make_list(made.pk)
    line = OrderLine.objects.get(order="H1")
    address = reverse("bench:hand", args=[line.pk])
    asked = {"wording": "Owen", "chosen": "1", "height_mm": "5"}
    still = owner_client.get(address, asked).json()
    moved = owner_client.get(address, {**asked, "along_mm": "2", "across_mm": "-1,5"}).json()
    by = [b - a for a, b in zip(still["ink"], moved["ink"], strict=True)]
    assert by == pytest.approx([2.0, -1.5, 2.0, -1.5], abs=1e-3)
    assert still["path"] != moved["path"] and still["holds"] and "5.00 mm" in still["said"]
    beyond = owner_client.get(address, {**asked, "along_mm": "40"}).json()
    assert not beyond["holds"]
    line.refresh_from_db()
    assert line.choices == {}, "what a hand tries is not kept"


def test_only_who_may_change_wording_may_keep_a_setting(client, shop, plate: OrderLine) -> None:
    client.force_login(make_user("Production"))
    answer = client.post(reverse("bench:keep", args=[plate.pk]), {"wording": "Ivy", "chosen": "1"})
    assert answer.status_code == 403


# -- typefaces

PAGE = reverse("catalogue:typefaces")
ADD = reverse("catalogue:add-typeface")


def typeface_file(code: str = "comfortaa-bold", name: str = "mine.ttf") -> SimpleUploadedFile:
    row = shipped_typefaces()[code]
    return SimpleUploadedFile(name, (files("kizami") / "data" / "typefaces" / row.file).read_bytes())


def test_every_typeface_is_shown_in_itself_with_its_facts(owner_client) -> None:
    page = owner_client.get(PAGE).content.decode()
    for row in shipped_typefaces().values():
        assert row.name in page
    assert page.count("<svg") >= len(shipped_typefaces())
    # The finest hand needs many times the height of the sturdiest sans, in the process that is chosen.
    assert re.search(r"\d+\.\d+\s*mm", page)


@pytest.mark.parametrize("words", ["", "Zoé", "<b>x</b>", "🙂", "x" * 500])
def test_specimens_take_any_words(owner_client, words: str) -> None:
    answer = owner_client.get(PAGE, {"words": words, "process": "no such"}, headers={"HX-Request": "true"})
    assert answer.status_code == 200
    assert "<b>x</b>" not in answer.content.decode()


POLL = {"HX-Request": "true", "HX-Target": "typefaces-sent"}


def send(client, file: SimpleUploadedFile) -> TypefaceSent:
    """Send a typeface, and have it looked at as a worker does."""
    client.post(ADD, {"typeface": file})
    sent = TypefaceSent.objects.first()
    assert sent is not None
    look_at_typeface(sent.pk)
    return TypefaceSent.objects.get(pk=sent.pk)


def test_a_shop_adds_its_own_and_orders_are_set_in_it(owner_client, owner) -> None:
    assert not send(owner_client, typeface_file()).is_refused
    own = ShopTypeface.objects.get()
    assert own.code in owner_client.get(PAGE).content.decode() and own.file.read()
    # The same file again is the same typeface.
    assert not send(owner_client, typeface_file(name="again.ttf")).is_refused
    assert ShopTypeface.objects.count() == 1 and own.file.read()


def test_whoever_sends_a_typeface_waits_for_nothing_and_is_told_what_became_of_it(owner_client) -> None:
    owner_client.post(ADD, {"typeface": typeface_file()})
    waiting = owner_client.get(PAGE, headers=POLL).content.decode()
    assert 'data-sent="waiting"' in waiting and "hx-trigger" in waiting and "<svg" not in waiting
    assert not ShopTypeface.objects.exists()
    look_at_typeface(TypefaceSent.objects.get().pk)
    done = owner_client.get(PAGE, headers=POLL).content.decode()
    assert 'data-sent="taken"' in done and ShopTypeface.objects.get().code in done
    # The wall is asked for once more, and nothing else is asked for after it.
    assert done.count("hx-get") == 1 and 'hx-target="#typefaces"' in done
    assert 'hx-include="#typefaces-form"' not in owner_client.get(PAGE).content.decode()


@pytest.mark.parametrize("data", [b"", b"no typeface"])
def test_what_is_no_typeface_at_sight_is_refused_at_once(owner_client, data: bytes) -> None:
    answer = owner_client.post(ADD, {"typeface": SimpleUploadedFile("x.ttf", data)}, follow=True)
    assert "Nothing was added" in answer.content.decode() or "Choose a TTF" in answer.content.decode()
    assert not TypefaceSent.objects.exists() and not ShopTypeface.objects.exists()


def test_what_is_damaged_is_refused_and_not_stored(owner_client) -> None:
    before = set(StoredFile.objects.values_list("pk", flat=True))
    sent = send(owner_client, SimpleUploadedFile("x.ttf", b"\x00\x01\x00\x00" + bytes(99)))
    assert sent.is_refused and "Nothing was added" in sent.said
    assert sent.said in owner_client.get(PAGE).content.decode().replace("&#x27;", "'")
    assert set(StoredFile.objects.values_list("pk", flat=True)) == before
    assert not ShopTypeface.objects.exists()


def test_a_typeface_that_ends_its_worker_again_and_again_is_given_up(owner_client) -> None:
    owner_client.post(ADD, {"typeface": typeface_file()})
    TypefaceSent.objects.update(attempts=3)
    assert take_up() == 1, "whatever became of its job, it is asked for again"
    look_at_typeface(TypefaceSent.objects.get().pk)
    sent = TypefaceSent.objects.get()
    assert sent.is_refused and "could not be looked at" in sent.said and sent.file is None
    assert take_up() == 0 and not ShopTypeface.objects.exists()


def test_the_desk_may_not_add_typefaces(client, shop) -> None:
    client.force_login(make_user("Desk"))
    assert client.get(PAGE).status_code == 200
    assert client.post(ADD, {"typeface": typeface_file()}).status_code == 403

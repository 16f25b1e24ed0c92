"""The shop's own words for typefaces, materials and finishes; logo files matched to rows by name."""

from __future__ import annotations

import io
import zipfile

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import transaction
from django.urls import reverse
from django.utils import timezone
from PIL import Image, ImageDraw

from kizami.products.product import Word
from tests.conftest import make_user
from workshop.artwork.models import Logo, LogoParcel
from workshop.files.models import StoredFile
from workshop.intake import parcels
from workshop.intake.logos import Missing, missing_of, set_threshold, take_logos
from workshop.intake.models import SetAsideRow
from workshop.intake.parcels import look_at_parcel, send_logos, take_up_parcels
from workshop.intake.putting_right import set_alias
from workshop.intake.taking import open_intake, take_list, trial_of
from workshop.making.keeping import change_wording
from workshop.making.recording import make_line
from workshop.making.tasks import make_list
from workshop.orders.models import OrderLine
from workshop.orders.stages import Stage
from workshop.sources.models import Source
from workshop.words.models import Alias, Placeholders

pytestmark = pytest.mark.django_db
HEADER = "order,line,product,size,wording,typeface,material,finish,logo\n"
SQUARE = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 10 10"><path d="M1 1h8v8h-8z"/></svg>'
ROUND = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 10 10"><circle cx="5" cy="5" r="4"/></svg>'


def zipped(**files: bytes) -> bytes:
    pack = io.BytesIO()
    with zipfile.ZipFile(pack, "w") as out:
        for name, data in files.items():
            out.writestr(name.replace("__", "."), data)
    return pack.getvalue()


def line(number: str = "1") -> OrderLine:
    return OrderLine.objects.get(order="A1", line=number)


@pytest.mark.parametrize(
    ("row", "asked"),
    [
        ("A1,1,NAME-PLATE,,Ivy,Great Vibes,,,", {"typeface": "great-vibes"}),
        ("A1,1,NAME-PLATE,,Ivy,great-vibes,bronze,,", {"typeface": "great-vibes", "material": "bronze"}),
        (
            "A1,1,TIDE-RING,54,Ivy,,Yellow  GOLD 18 k,Brushed,",
            {"material": "yellow-gold-18k", "finish": "brushed"},
        ),
        ("A1,1,NAME-PLATE,,Ivy,,,,", {}),
    ],
    ids=["by name", "by code", "case and spaces", "nothing asked"],
)
def test_words_of_the_list_choose_what_the_product_offers(owner, row: str, asked: dict[str, str]) -> None:
    take_list((HEADER + row).encode(), name="x", user=owner)
    assert line().choices == asked
    product = line().to_product()
    for word, code in asked.items():
        assert getattr(product, word) == code


@pytest.mark.parametrize(
    ("row", "column", "said"),
    [
        ("A1,1,NAME-PLATE,,Ivy,Great Vibez,,,", "typeface", "Did you mean great-vibes"),
        ("A1,1,TIDE-RING,54,Ivy,,unobtainium,,", "material", "There is no material"),
        ("A1,1,TIDE-RING,54,Ivy,,,sandblasted,", "finish", "There is no finish"),
    ],
)
def test_what_cannot_be_matched_is_set_aside_with_what_can(owner, row: str, column: str, said: str) -> None:
    take_list((HEADER + row).encode(), name="x", user=owner)
    aside = SetAsideRow.objects.get()
    assert aside.columns == [column]
    assert said in aside.reason


@pytest.mark.parametrize(
    ("row", "said"),
    [
        ("A1,1,NAME-PLATE,,Ivy,Cinzel Bold,,,", "typeface “Cinzel Bold”"),
        ("A1,1,CREW-TAG,,Ivy,Brush,,,", "typeface “Brush”"),
        ("A1,1,CREW-TAG,,Ivy,,gold,,", "material “gold”"),
        ("A1,1,CREW-TAG,,Ivy,,,mirror,", "finish “mirror”"),
        ("A1,1,CREW-TAG,54,Ivy,,,,", "size “54”"),
        ("A1,1,CREW-TAG,,Ivy,,,,heron.svg", "logo “heron.svg”"),
    ],
)
def test_what_the_product_has_no_place_for_holds_the_line(owner, row: str, said: str) -> None:
    taken = take_list((HEADER + row).encode(), name="x", user=owner)
    assert said in line().open_question
    make_list(taken.pk)
    assert line().stage == "held"
    # A person who has seen it may keep the piece as the product has it.
    change_wording(line().pk, "Ivy", user=owner)
    assert line().stage == "ready"


def test_an_alias_cures_every_row_that_needs_it_also_in_free_text(owner, owner_client) -> None:
    rows = "A1,1,NAME-PLATE,,Ivy,Curly,,,\nA1,2,NAME-PLATE,,Kit, curly ,,,\nA1,3,NAME-PLATE,,Ana,Swirly,,,\n"
    take_list((HEADER + rows).encode(), name="x", user=owner)
    assert "“Curly” always means" in owner_client.get(reverse("intake:set-aside")).content.decode()
    cured = set_alias("Curly", Word.TYPEFACE, "sacramento", user=owner)
    assert cured == 2
    assert line("2").choices == {"typeface": "sacramento"}
    take_list((HEADER + "A2,1,NAME-PLATE,,Bo,CURLY,,,\n").encode(), name="y", user=owner)
    assert OrderLine.objects.get(order="A2").choices == {"typeface": "sacramento"}


def test_a_typeface_asked_for_is_the_one_that_the_piece_is_set_in(owner) -> None:
    taken = take_list(
        (HEADER + "A1,1,NAME-PLATE,,Ivy,,,,\nA1,2,NAME-PLATE,,Ivy,Great Vibes,,,\n").encode(),
        name="x",
        user=owner,
    )
    make_list(taken.pk)
    plain, asked = line("1").revision, line("2").revision
    assert plain is not None and asked is not None
    assert plain.fingerprint != asked.fingerprint and plain.strip != asked.strip


def test_a_list_received_again_without_change_changes_nothing_and_a_new_typeface_is_said(owner) -> None:
    text = HEADER + "A1,1,NAME-PLATE,,Ivy,Great Vibes,,,\n"
    take_list(text.encode(), name="x", user=owner)
    again = trial_of(open_intake(text.encode(), name="x", source="", user=owner))
    assert again.unchanged == 1
    other = trial_of(
        open_intake(text.replace("Great Vibes", "Sacramento").encode(), name="x", source="", user=owner)
    )
    (change,) = other.simple
    assert change.said == ("typeface: “Great Vibes” → “Sacramento”",) and change.remade


# -- logos


def test_a_logo_beside_the_list_is_made_at_once_and_a_missing_one_holds_its_line(owner, owner_client) -> None:
    rows = "A1,1,BADGE-TAG,,Ivy,,,,heron.svg\nA1,2,BADGE-TAG,,Kit,,,,Crest.PNG\n"
    answer = owner_client.post(
        reverse("intake:take"),
        {
            "file": SimpleUploadedFile("l.csv", (HEADER + rows).encode()),
            "logos": [
                SimpleUploadedFile("logos.zip", zipped(**{"art/Heron__svg": ROUND, "read__txt": b"x"}))
            ],
        },
        follow=True,
    )
    assert "being looked at" in answer.content.decode()
    intake_pk = answer.context["intake"].pk
    look_at_all()
    page = owner_client.get(reverse("intake:trial", args=[intake_pk])).content.decode()
    assert "Logos still missing" in page and "Crest.PNG" in page
    page = owner_client.get(reverse("intake:logos")).content.decode()
    assert "1 logo taken in" in page and "read.txt is no drawing or picture" in page
    owner_client.post(reverse("intake:take-in", args=[intake_pk]), {"do": "take"})
    make_list(line().order_list_id)
    assert line("1").stage == Stage.READY
    assert line("2").stage == Stage.HELD
    assert "Crest.PNG” is not here yet" in line("2").revision.facts["findings"][0]["message"]
    source = line().source
    assert missing_of(source) == (Missing(name="Crest.PNG", lines=1),)


def test_a_logo_that_comes_later_makes_its_lines_again(owner) -> None:
    taken = take_list((HEADER + "A1,1,BADGE-TAG,,Ivy,,,,crest\n").encode(), name="x", user=owner)
    make_list(taken.pk)
    assert line().stage == Stage.HELD
    done = take_logos(line().source, [("folder/CREST.svg", SQUARE)], user=owner)
    assert (done.kept, done.lines) == (("folder/CREST.svg",), 1)
    assert line().stage == Stage.NEW
    make_list(taken.pk)
    first = line().revision
    assert line().stage == Stage.READY and first is not None
    take_logos(line().source, [("crest.svg", ROUND)], user=owner)
    make_list(taken.pk)
    assert line().revision.fingerprint != first.fingerprint
    assert Logo.objects.count() == 1


def test_logos_of_one_source_do_not_serve_another(owner) -> None:
    take_list((HEADER + "A1,1,BADGE-TAG,,Ivy,,,,crest\n").encode(), name="x", user=owner)
    other = Source.objects.create(name="someone else")
    take_logos(other, [("crest.svg", SQUARE)], user=owner)
    assert missing_of(line().source) == (Missing(name="crest", lines=1),)


def test_a_logo_out_of_use_stays_with_what_has_it_and_comes_to_no_other(owner, owner_client) -> None:
    rows = HEADER + "A1,1,BADGE-TAG,,Ivy,,,,crest\n"
    taken = take_list(rows.encode(), name="x", user=owner)
    source = line().source
    take_logos(source, [("crest.svg", SQUARE)], user=owner)
    make_list(taken.pk)
    first, logo = line().revision, Logo.objects.get()
    page = reverse("intake:logos") + f"?source={source.pk}"
    use = reverse("intake:logo-use", args=[logo.pk])
    assert "is out of use" in owner_client.post(use, {"use": "out"}, follow=True).content.decode()
    assert f"out of use since {timezone.now():%Y-%m-%d}, {owner}" in owner_client.get(page).content.decode()

    # What has it keeps it, also when its words are changed and it is made again.
    kept = line()
    kept.wording, kept.edition = "Ivo", kept.edition + 1
    kept.save()
    with transaction.atomic():
        again = make_line(kept, why="other words")
    assert again.stage == Stage.READY and again.logo_file_id == first.logo_file_id
    assert missing_of(source) == ()

    # What comes later and names it is held, and says so.
    later = take_list((rows + "A2,1,BADGE-TAG,,Ada,,,,Crest.SVG\n").encode(), name="x", user=owner)
    make_list(later.pk)
    held = OrderLine.objects.get(order="A2")
    assert held.stage == Stage.HELD and held.revision.logo_file_id is None
    assert "“Crest.SVG” is out of use" in held.revision.facts["findings"][0]["message"]
    assert OrderLine.objects.get(order="A1").stage == Stage.READY
    assert missing_of(source) == (Missing(name="Crest.SVG", lines=1, is_out_of_use=True),)

    # In use again its lines are made with it; a new file of its name brings it into use as well.
    owner_client.post(use, {"use": "again"})
    make_list(later.pk)
    assert OrderLine.objects.get(order="A2").stage == Stage.READY
    owner_client.post(use, {"use": "out"})
    take_logos(source, [("crest.svg", ROUND)], user=owner)
    assert Logo.objects.get().retired_at is None


def test_who_may_take_a_logo_out_of_use(client, owner) -> None:
    source = Source.objects.create(name="s")
    take_logos(source, [("crest.svg", SQUARE)], user=owner)
    logo = Logo.objects.get()
    client.force_login(make_user("Production"))
    answer = client.post(reverse("intake:logo-use", args=[logo.pk]), {"use": "out"})
    logo.refresh_from_db()
    assert answer.status_code == 403 and logo.retired_at is None


@pytest.mark.parametrize(
    ("name", "data", "said"),
    [
        ("a.svg", b"<svg xmlns='http://www.w3.org/2000/svg'><script>x</script></svg>", "has a script"),
        ("a.zip", b"PK\x03\x04 cut short", "damaged zip"),
        ("a.png", b"\x89PNG cut short", "not a whole PNG"),
        ("a.bin", b"\x00\x01", "no drawing or picture"),
        ("a.svg", b"", "no drawing or picture"),
    ],
)
def test_a_bad_file_is_refused_and_the_good_ones_are_kept(owner, owner_client, name, data, said) -> None:
    take_list((HEADER + "A1,1,BADGE-TAG,,Ivy,,,,good\n").encode(), name="x", user=owner)
    answer = owner_client.post(
        reverse("intake:logos") + f"?source={line().source_id}",
        {"logos": [SimpleUploadedFile(name, data), SimpleUploadedFile("good.svg", SQUARE)]},
        follow=True,
    )
    assert "is being looked at" in answer.content.decode() and not Logo.objects.exists()
    look_at_all()
    page = owner_client.get(reverse("intake:logos") + f"?source={line().source_id}").content.decode()
    assert said in page and "is being looked at" not in page
    assert list(Logo.objects.values_list("name", flat=True)) == ["good.svg"]
    # What was sent is not kept beside what it became.
    assert not StoredFile.objects.exclude(pk__in=Logo.objects.values("file")).filter(kind="logo").exists()


def test_a_parcel_waits_for_those_before_it_so_that_the_newest_logo_stays(owner) -> None:
    source = Source.objects.create(name="s")
    first, second = (send_logos(source, [("crest.svg", data)], user=owner)[0] for data in (SQUARE, ROUND))
    look_at_parcel(second.pk)
    assert not Logo.objects.exists()
    look_at_parcel(first.pk)
    look_at_parcel(second.pk)
    assert Logo.objects.get().file.read() == ROUND
    look_at_parcel(first.pk)
    assert Logo.objects.get().file.read() == ROUND


def test_a_parcel_that_kills_whoever_looks_is_given_up(owner, monkeypatch) -> None:
    source = Source.objects.create(name="s")
    (parcel,) = send_logos(source, [("crest.svg", SQUARE)], user=owner)

    def killed(*_args: object, **_named: object) -> None:
        raise KeyboardInterrupt

    monkeypatch.setattr(parcels, "take_logos", killed)
    for _ in range(3):
        with pytest.raises(KeyboardInterrupt):
            look_at_parcel(parcel.pk)
    assert take_up_parcels() == 1
    look_at_parcel(parcel.pk)
    parcel.refresh_from_db()
    assert parcel.is_refused and "Send it again" in parcel.said and parcel.file is None
    assert take_up_parcels() == 0 and not StoredFile.objects.filter(kind="logo").exists()


def test_the_same_file_sent_twice_is_there_once(owner) -> None:
    source = Source.objects.create(name="s")
    for _ in range(2):
        send_logos(source, [("crest.svg", SQUARE)], user=owner)
    look_at_all()
    assert Logo.objects.get().file.read() == SQUARE
    assert LogoParcel.objects.waiting().count() == 0


def look_at_all() -> None:
    """As a worker does."""
    for pk in LogoParcel.objects.waiting().order_by("pk").values_list("pk", flat=True):
        look_at_parcel(pk)


def test_names_in_a_zip_that_point_elsewhere_keep_only_their_last_part(owner) -> None:
    source = Source.objects.create(name="s")
    done = take_logos(source, [("x.zip", zipped(**{"../../etc/crest__svg": SQUARE}))], user=owner)
    assert done.kept == ("crest.svg",)


def test_a_zip_that_unpacks_to_far_more_is_not_opened(owner) -> None:
    pack = io.BytesIO()
    with zipfile.ZipFile(pack, "w", zipfile.ZIP_DEFLATED) as out:
        for number in range(12):
            out.writestr(f"{number}.png", b"\x00" * (25 * 1024 * 1024))
    done = take_logos(Source.objects.create(name="s"), [("bomb.zip", pack.getvalue())], user=owner)
    assert done.kept == () and "unpacks to more than 128 MB" in done.refused["bomb.zip"]


def test_the_grey_that_parts_a_picture_can_be_set_and_a_blank_one_is_not_kept(owner, owner_client) -> None:
    picture = Image.new("L", (200, 200), 255)
    pen = ImageDraw.Draw(picture)
    pen.rectangle((20, 20, 180, 180), fill=140)
    pen.rectangle((60, 60, 140, 140), fill=20)
    data = io.BytesIO()
    picture.save(data, "PNG")
    take_logos(Source.objects.create(name="s"), [("two.png", data.getvalue())], user=owner)
    logo = Logo.objects.get()
    set_threshold(logo, 0.3, user=owner)
    assert Logo.objects.get().threshold == 0.3
    owner_client.post(reverse("intake:logo-threshold", args=[logo.pk]), {"threshold": "3"})
    assert Logo.objects.get().threshold == 0.3


# -- the words page


def test_placeholder_words_are_the_shops_to_keep(owner, owner_client) -> None:
    owner_client.post(
        reverse("intake:placeholders"), {"do": "keep", "words": "Lorem\n\n  your  NAME \nlorem\n"}
    )
    assert Placeholders.objects.get().words == ["lorem", "your name"]
    take_list(
        (HEADER + "A1,1,CREW-TAG,,Your name,,,,\nA1,2,CREW-TAG,,sample,,,,\n").encode(), name="x", user=owner
    )
    assert [line("1").wording, line("2").wording] == ["", "sample"]
    owner_client.post(reverse("intake:placeholders"), {"do": "usual"})
    assert not Placeholders.objects.exists()


def test_an_alias_can_be_made_and_forgotten_on_the_words_page(owner, owner_client) -> None:
    made = {"word": "Silber", "kind": "material", "code": "sterling-silver", "back": "words"}
    assert "now stands for" in owner_client.post(reverse("intake:alias"), made, follow=True).content.decode()
    alias = Alias.objects.get()
    assert (alias.kind, alias.word) == ("material", "silber")
    owner_client.post(reverse("intake:forget-alias", args=[alias.pk]))
    assert not Alias.objects.exists()


@pytest.mark.parametrize(
    "data",
    [{"word": "x", "kind": "planet", "code": "mars"}, {"word": "x", "kind": "material", "code": "mars"}],
)
def test_an_alias_for_nothing_is_refused(owner_client, data: dict[str, str]) -> None:
    owner_client.post(reverse("intake:alias"), data)
    assert not Alias.objects.exists()

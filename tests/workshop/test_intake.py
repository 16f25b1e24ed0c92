"""Trial first, then one step; the same list again changes nothing; corrections are said and asked about."""

from __future__ import annotations

import re

import pytest
from django.urls import reverse

from kizami.errors import OrderListError
from kizami.products.product import Word
from tests.workshop.drawn import send_on
from tests.workshop.lists import HEADER
from workshop.intake.models import Intake, Question, SetAsideRow
from workshop.intake.putting_right import retry_row, set_alias
from workshop.intake.taking import open_intake, set_reading, take, take_list, trial_of
from workshop.making.keeping import change_wording
from workshop.making.models import Revision
from workshop.making.tasks import make_list
from workshop.orders.models import OrderLine, OrderList
from workshop.orders.stages import Stage
from workshop.sources.models import Source
from workshop.words.models import Alias

pytestmark = pytest.mark.django_db
TWO = HEADER + "A1,1,CHOIR-RING,54,Ottoline,1,2027-01-10,Choir\nA1,2,CREW-TAG,,Halloran,2,,Ferry\n"


@pytest.fixture
def taken(owner) -> OrderList:
    order_list = take_list(TWO.encode(), name="two.csv", user=owner)
    make_list(order_list.pk)
    return order_list


def line(number: str) -> OrderLine:
    return OrderLine.objects.get(order="A1", line=number)


def counts(text: str, owner, source: str = "our own lists") -> tuple[int, int, int, int, int]:
    found = trial_of(open_intake(text.encode(), name="x", source=source, user=owner))
    assert found.comparison is not None
    return (
        len(found.comparison.new),
        len(found.simple),
        found.unchanged,
        len(found.asked),
        len(found.set_aside),
    )


def test_a_trial_stores_nothing_but_itself(owner) -> None:
    assert counts(TWO, owner) == (2, 0, 0, 0, 0)
    assert not OrderLine.objects.exists()
    assert Intake.objects.count() == 1


def test_the_same_list_again_changes_nothing(taken: OrderList, owner) -> None:
    before = list(OrderLine.objects.order_by("pk").values())
    assert counts(TWO, owner) == (0, 0, 2, 0, 0)
    again = take_list(TWO.encode(), name="two.csv", user=owner)
    assert list(OrderLine.objects.order_by("pk").values()) == before
    assert Revision.objects.count() == 2
    assert "2 unchanged" in again.events.get().what


def test_another_source_has_order_numbers_of_its_own(taken: OrderList, owner) -> None:
    assert counts(TWO, owner, source="Shop B") == (2, 0, 0, 0, 0)
    take_list(TWO.encode(), name="b", user=owner, source="Shop B")
    assert OrderLine.objects.count() == 4


@pytest.mark.parametrize(
    ("old", "new", "said", "remade"),
    [
        ("Ottoline", "Odile", "wording: “Ottoline” → “Odile”", True),
        (",54,", ",57,", "size: “54” → “57”", True),
        ("2027-01-10", "2027-02-10", "due date: 2027-01-10 → 2027-02-10", False),
        ("Choir\n", "Chorus\n", "customer: “Choir” → “Chorus”", False),
        ("CHOIR-RING,54,Ottoline,1", "CHOIR-RING,54,Ottoline,3", "quantity: 1 → 3", True),
        ("CHOIR-RING,54", "VOW-RING,XL", "product: “CHOIR-RING” → “VOW-RING”", None),
    ],
)
def test_a_corrected_list_changes_only_what_changed_and_says_so(
    taken: OrderList, owner, old: str, new: str, said: str, remade: bool | None
) -> None:
    text = TWO.replace(old, new)
    if remade is None:  # a size of clothes: the row is set aside and the line stays
        assert counts(text, owner) == (0, 0, 1, 0, 1)
        return
    found = trial_of(open_intake(text.encode(), name="x", source="our own lists", user=owner))
    (change,) = found.simple
    assert (change.said, change.remade) == ((said,), remade)
    untouched = OrderLine.objects.filter(line="2").values().get()
    order_list = take_list(text.encode(), name="x", user=owner)
    assert OrderLine.objects.filter(line="2").values().get() == untouched
    assert line("1").stage == (Stage.NEW if remade else Stage.READY)
    make_list(order_list.pk)
    assert line("1").stage == Stage.READY
    assert line("1").revisions.count() == (2 if remade else 1)
    assert line("1").pieces.count() == line("1").quantity
    assert line("1").events.filter(what=said).exists()


def test_columns_that_a_list_lacks_empty_nothing(taken: OrderList, owner) -> None:
    short = "order,line,product,size,wording\nA1,1,CHOIR-RING,54,Odile\nA1,2,CREW-TAG,,Halloran\n"
    assert counts(short, owner) == (0, 1, 1, 0, 0)
    take_list(short.encode(), name="x", user=owner)
    assert (line("1").wording, line("1").customer, str(line("1").due)) == ("Odile", "Choir", "2027-01-10")
    assert line("2").quantity == 2


@pytest.mark.parametrize("stage", [Stage.IN_RUN, Stage.MADE, Stage.SENT])
def test_a_piece_that_is_on_its_way_is_never_touched_but_asked_about(
    taken: OrderList, owner, stage: Stage
) -> None:
    make_list(taken.pk)
    send_on(OrderLine.objects.filter(line="1"), stage)
    text = TWO.replace("Ottoline", "Odile")
    assert counts(text, owner) == (0, 0, 1, 1, 0)
    take_list(text.encode(), name="x", user=owner)
    assert (line("1").wording, line("1").stage) == ("Ottoline", stage)
    question = Question.objects.get()
    assert question.line == line("1") and "in a run, made or sent" in question.why
    # The same correction again replaces the open question; it does not pile up.
    take_list(text.encode(), name="x", user=owner)
    assert Question.objects.filter(decided_at=None).count() == 1


def test_a_wording_changed_at_the_bench_is_not_overwritten_unasked(taken: OrderList, owner) -> None:
    change_wording(line("1").pk, "Otti", user=owner)
    assert counts(TWO, owner) == (0, 0, 2, 0, 0)
    assert counts(TWO.replace("Ottoline", "Odile"), owner) == (0, 0, 1, 1, 0)
    # Another difference leaves the bench's words alone.
    take_list(TWO.replace("2027-01-10", "2027-03-10").encode(), name="x", user=owner)
    assert line("1").wording == "Otti"


@pytest.mark.parametrize("do", ["take", "leave"])
def test_questions_are_answered_on_their_page(taken: OrderList, owner, owner_client, do: str) -> None:
    change_wording(line("1").pk, "Otti", user=owner)
    take_list(TWO.replace("Ottoline", "Odile").encode(), name="x", user=owner)
    page = owner_client.get(reverse("intake:set-aside")).content.decode()
    assert "“Ottoline” → “Odile”" in page and "Otti" in page
    question = Question.objects.get()
    for _ in range(2):  # a second click does nothing more
        owner_client.post(reverse("intake:answer", args=[question.pk]), {"do": do})
    question.refresh_from_db()
    assert (question.taken, question.decided_by) == (do == "take", owner)
    assert line("1").wording == ("Odile" if do == "take" else "Otti")
    assert "data-question" not in owner_client.get(reverse("intake:set-aside")).content.decode()


def test_columns_and_encoding_are_corrected_in_the_preview_and_remembered(owner, owner_client) -> None:
    text = "Auftrag;Was;Etwas;Stück\nA1;CREW-TAG;Jürgen;2\n"
    intake = open_intake(text.encode("cp1252"), name="x", source="Shop C", user=owner)
    page = owner_client.get(intake.get_absolute_url()).content.decode()
    # The product is known by what stands there; the words are the only column left, which is no certainty.
    assert "Is this column right: Wording?" in page
    taken = owner_client.post(reverse("intake:take-in", args=[intake.pk]), {"do": "take"})
    assert (taken.status_code, OrderList.objects.count()) == (422, 0)
    settings = {
        "field-order": "Auftrag",
        "field-product": "Was",
        "field-wording": "Etwas",
        "field-quantity": "Stück",
        "confirm": "columns",
    }
    page = owner_client.post(
        reverse("intake:reading", args=[intake.pk]), settings, headers={"HX-Request": "true"}
    ).content.decode()
    assert dict(re.findall(r'data-trial="(\w+)">(\d+)<', page))["new"] == "1"
    assert "Jürgen" in page
    intake.refresh_from_db()
    take(intake, user=owner)
    made = OrderLine.objects.get()
    assert (made.wording, made.quantity) == ("Jürgen", 2)
    # The next list of this source needs no hand.
    assert counts("Auftrag;Was;Etwas;Stück\nA2;CREW-TAG;Ng;1\n", owner, source="Shop C")[0] == 1
    assert Source.objects.get(name="Shop C").columns["wording"] == "Etwas"


def test_free_text_is_taken_apart_by_a_rule_tried_on_the_rows(owner) -> None:
    text = "order,product,text\nA1,CREW-TAG,Name: Ng / Font: Noto Sans Bold\nA2,CREW-TAG,Name: Okonkwo / Font: noto sans  bold\n"
    intake = open_intake(text.encode(), name="x", source="Shop D", user=owner)
    found = trial_of(intake)
    assert found.rule is None and found.proposed_rule is not None
    set_reading(intake, encoding="", columns={}, use_rule=True)
    found = trial_of(intake)
    assert found.comparison is not None
    assert [new.wording.text for new in found.comparison.new] == ["Ng", "Okonkwo"]
    assert found.comparison.new[0].choices == {Word.TYPEFACE: "noto-sans-bold"}
    take(intake, user=owner)
    later = open_intake(text.replace("A1", "B1").encode(), name="y", source="Shop D", user=owner)
    assert trial_of(later).rule is not None


def test_a_wrong_encoding_chosen_by_hand_is_said_and_can_be_undone(owner, owner_client) -> None:
    intake = open_intake(
        "order,product,wording\nA1,CREW-TAG,Zoë\n".encode("cp1252"), name="x", source="", user=owner
    )
    address = reverse("intake:reading", args=[intake.pk])
    page = owner_client.post(address, {"encoding": "UTF-8"}, follow=True).content.decode()
    assert "is not in UTF-8" in page
    page = owner_client.post(address, {"encoding": ""}, follow=True).content.decode()
    assert "Zoë" in page


def test_dropping_a_trial_leaves_the_book_as_it_was(owner, owner_client) -> None:
    intake = open_intake(TWO.encode(), name="x", source="", user=owner)
    owner_client.post(reverse("intake:take-in", args=[intake.pk]), {"do": "drop"})
    assert not Intake.objects.exists() and not OrderLine.objects.exists()


BAD = HEADER + "B1,1,HIVE-PLAT,,Clover,1,,\nB2,1,HIVE-PLAT,,Lime,1,,\nB3,1,CREW-TAG,,Ng,0,,\n"


def test_a_set_aside_row_is_put_right_in_place(owner, owner_client) -> None:
    order_list = take_list(BAD.encode(), name="bad", user=owner)
    row = SetAsideRow.objects.get(row=4)
    assert row.columns == ["quantity"]
    cells = ["B3", "1", "CREW-TAG", "", "Ng", "none", "", ""]
    owner_client.post(
        reverse("intake:retry", args=[row.pk]), {f"cell-{place}": cell for place, cell in enumerate(cells)}
    )
    row.refresh_from_db()
    assert "“none”" in row.reason and row.cells == cells
    cells[5] = "2"
    owner_client.post(
        reverse("intake:retry", args=[row.pk]), {f"cell-{place}": cell for place, cell in enumerate(cells)}
    )
    assert not SetAsideRow.objects.filter(pk=row.pk).exists()
    made = OrderLine.objects.get(order="B3")
    assert (made.order_list, made.quantity, made.stage) == (order_list, 2, "new")


def test_a_row_put_right_to_a_line_that_exists_is_refused(owner) -> None:
    take_list((BAD + "B3,2,CREW-TAG,,Ng,1,,\n").encode(), name="bad", user=owner)
    row = SetAsideRow.objects.get(row=4)
    assert retry_row(row, ["B3", "2", "CREW-TAG", "", "Ng", "1", "", ""], user=owner) is None
    assert "already" in SetAsideRow.objects.get(pk=row.pk).reason


def test_an_alias_cures_every_row_that_needs_it_once_and_for_all(owner, owner_client) -> None:
    take_list(BAD.encode(), name="bad", user=owner)
    page = owner_client.get(reverse("intake:set-aside")).content.decode()
    assert "always means" in page
    answer = owner_client.post(
        reverse("intake:alias"), {"word": "hive-plat ", "kind": "product", "code": "HIVE-PLATE"}, follow=True
    )
    assert "2 rows were put right" in answer.content.decode()
    assert set(OrderLine.objects.values_list("order", flat=True)) == {"B1", "B2"}
    assert counts(HEADER + "C1,1,Hive-Plat,,Heather,1,,\n", owner)[0] == 1
    # Set again to another product it replaces the first meaning.
    set_alias("HIVE-PLAT", Word.PRODUCT, "CREW-TAG", user=owner)
    assert Alias.objects.get().target == "CREW-TAG"


def test_two_takings_of_one_list_make_each_line_once(owner) -> None:
    first, second = (open_intake(TWO.encode(), name="x", source="", user=owner) for _ in range(2))
    take(first, user=owner)
    take(second, user=owner)
    assert OrderLine.objects.count() == 2
    assert OrderList.objects.count() == 2


def test_desk_work_needs_the_desks_rights(client, owner, taken: OrderList) -> None:
    from tests.conftest import make_user

    client.force_login(make_user("Production"))
    intake = open_intake(TWO.encode(), name="x", source="", user=owner)
    assert client.get(intake.get_absolute_url()).status_code == 403
    for name in ("intake:reading", "intake:take-in"):
        assert client.post(reverse(name, args=[intake.pk]), {"do": "take"}).status_code == 403
    assert client.post(reverse("intake:alias"), {"word": "x", "code": "CREW-TAG"}).status_code == 403
    assert Intake.objects.filter(pk=intake.pk).exists()


CREW = (
    "order,line,product,wording,set\n"
    "C,1,CREW-TAG,Ng,crew\nC,2,CREW-TAG,Halloran,crew\nC,3,CREW-TAG,Okonkwo,crew\nC,4,CREW-TAG,Ng,\n"
)


def heights() -> dict[str, float]:
    return {row.line: row.revision.height_mm for row in OrderLine.objects.select_related("revision")}


def test_a_set_shares_one_height_and_follows_its_members(owner) -> None:
    order_list = take_list(CREW.encode(), name="crew", user=owner)
    make_list(order_list.pk)
    first = heights()
    assert first["1"] == first["2"] == first["3"] < first["4"]
    # A member that is harder to fit pulls the others along: they are made again by themselves.
    change_wording(OrderLine.objects.get(line="1").pk, "Papadopoulos", user=owner)
    assert set(OrderLine.objects.filter(stage=Stage.NEW).values_list("line", flat=True)) == {"2", "3"}
    make_list(order_list.pk)
    second = heights()
    assert second["1"] == second["2"] == second["3"] < first["1"]
    assert second["4"] == first["4"]
    assert not OrderLine.objects.filter(stage=Stage.NEW).exists()


def test_a_member_that_is_made_already_keeps_its_height(owner) -> None:
    order_list = take_list(CREW.encode(), name="crew", user=owner)
    make_list(order_list.pk)
    send_on(OrderLine.objects.filter(line="3"), Stage.MADE)
    change_wording(OrderLine.objects.get(line="1").pk, "Papadopoulos", user=owner)
    assert OrderLine.objects.get(line="3").stage == Stage.MADE
    assert set(OrderLine.objects.filter(stage=Stage.NEW).values_list("line", flat=True)) == {"2"}


def test_a_full_name_is_reduced_on_a_product_for_initials_wherever_it_comes_from(owner, owner_client) -> None:
    order_list = take_list(b"order,product,wording\nI,PLOT-TAG,Rosa Harriet Mews\n", name="x", user=owner)
    make_list(order_list.pk)
    row = order_list.lines.get()
    assert (row.wording, row.wording_received, row.changes) == (
        "RHM",
        "Rosa Harriet Mews",
        ["Reduced to initials"],
    )
    page = owner_client.get(reverse("bench:look", args=[row.pk]), {"wording": "Tom Costa"}).content.decode()
    assert "TC on the unrolled" in page and "Tom Costa on the unrolled" not in page
    change_wording(row.pk, "Tom Costa", user=owner)
    row.refresh_from_db()
    assert row.wording == "TC"


def test_a_proposal_is_shown_and_taken_by_one_key_only_by_a_person(owner, owner_client) -> None:
    order_list = take_list(b"order,product,wording\nI,CREW-TAG,jOHN\n", name="x", user=owner)
    make_list(order_list.pk)
    row = order_list.lines.get()
    assert (row.wording, row.proposal) == ("jOHN", "John")
    assert 'data-put-back="John" data-key="p"' in owner_client.get(row.get_absolute_url()).content.decode()
    change_wording(row.pk, "John", user=owner)
    row.refresh_from_db()
    assert (row.wording, row.proposal) == ("John", "")


def test_a_guess_stays_one_until_it_is_confirmed(owner, owner_client) -> None:
    text = "order,product,name,e-mail\nA1,CREW-TAG,Ng,a@example.org\n"
    intake = open_intake(text.encode(), name="x", source="Shop E", user=owner)
    url = reverse("intake:reading", args=[intake.pk])
    shown = {"field-order": "order", "field-product": "product", "field-wording": "name", "encoding": "UTF-8"}
    # Another thing was changed: what the page showed beside it is not confirmed by that.
    assert "Is this column right: Wording?" in owner_client.post(url, shown, follow=True).content.decode()
    confirmed = owner_client.post(url, {**shown, "confirm": "columns"}, follow=True).content.decode()
    assert "Is this column right" not in confirmed
    intake.refresh_from_db()
    assert [line.wording for line in take(intake, user=owner).lines.all()] == ["Ng"]


def test_new_lines_stand_by_what_happens_to_them(owner, owner_client) -> None:
    text = "order,product,wording\nA1,CREW-TAG,Ng\nA2,CREW-TAG,Name: Ivy\nA3,CREW-TAG,see above\n"
    intake = open_intake(text.encode(), name="x", source="Shop F", user=owner)
    groups = {
        title: [line.wording.text for line in lines] for title, lines in trial_of(intake).new_by_surprise
    }
    assert list(groups.values()) == [["see above"], ["Ivy"], ["Ng"]]
    page = owner_client.get(intake.get_absolute_url()).content.decode()
    assert page.index("points to the row above") < page.index("own name") < page.index("as written")


def test_letters_that_may_be_two_are_asked_about(owner, owner_client) -> None:
    data = "order,product,wording\nA1,CREW-TAG,Jenő\n".encode("cp1250")
    intake = open_intake(data, name="x", source="Shop G", user=owner)
    page = owner_client.get(intake.get_absolute_url()).content.decode()
    assert "“Jenő” or “Jenõ”" in page
    with pytest.raises(OrderListError, match="Jenő"):
        take(intake, user=owner)
    owner_client.post(reverse("intake:reading", args=[intake.pk]), {"encoding": "Windows-1250"})
    intake.refresh_from_db()
    assert take(intake, user=owner).lines.get().wording == "Jenő"


def test_a_second_line_of_an_order_put_right_by_hand_gets_a_number(owner) -> None:
    text = "order,product,wording\nA1,CREW-TAG,Ng\nA1,CREW-TOG,Ivy\nA1,CREW-TAG,Kit\n"
    taken = take_list(text.encode(), name="x", user=owner, source="Shop H")
    (row,) = SetAsideRow.objects.filter(order_list=taken)
    made = retry_row(row, ["A1", "CREW-TAG", "Ivy"], user=owner)
    assert made is not None
    # It had number 2 when the list was read; a new number is never one that another line had.
    assert [(line.line, line.wording) for line in taken.lines.order_by("pk")] == [
        ("1", "Ng"), ("3", "Kit"), ("4", "Ivy"),
    ]  # fmt: skip


def test_a_question_with_several_readings_is_answered_with_one_key(owner, owner_client) -> None:
    row = f"A1,PLOT-TAG,Vincent Van Dyke,{'x' * 200},{'y' * 200}"
    text = f"order,product,wording,second,colour\n{row}\n"
    taken = take_list(text.encode(), name="x", user=owner, source="Shop I")
    line = taken.lines.get()
    # Several questions are one text, however long.
    assert (
        "Van" in line.open_question
        and "second wording" in line.open_question
        and "colour" in line.open_question
    )
    assert line.candidates == ["VD", "VV", "VVD"]
    page = owner_client.get(line.get_absolute_url()).content.decode()
    for key, letters in enumerate(line.candidates, start=1):
        assert f'data-put-back="{letters}" data-key="{key}"' in page
    change_wording(line.pk, "VVD", user=owner)
    line.refresh_from_db()
    assert (line.wording, line.open_question, line.candidates) == ("VVD", "", [])


def test_what_points_above_or_to_last_time_is_held_with_the_words_it_points_to(owner) -> None:
    head = "order,product,wording,customer\n"
    first = take_list((head + "A1,CREW-TAG,Halloran,Ferry\n").encode(), name="x", user=owner)
    again = "B1,CREW-TAG,Ottoline,Choir\nB2,CREW-TAG,see above,Choir\nB3,CREW-TAG,ditto,Bees\n"
    again += "B4,CREW-TAG,same as last time,Ferry\nB5,CREW-TAG,same as last time,Nobody\n"
    second = take_list((head + again).encode(), name="y", user=owner)
    lines = {row.order: row for row in second.lines.all()}
    assert [lines[order].candidates for order in ("B2", "B3", "B4", "B5")] == [
        ["Ottoline"], ["Ottoline"], ["Halloran"], [],
    ]  # fmt: skip
    assert "A1-1" in lines["B4"].open_question
    assert all(lines[order].open_question for order in ("B2", "B3", "B4", "B5"))
    make_list(second.pk)
    assert {row.stage for row in second.lines.exclude(order="B1")} == {Stage.HELD}
    assert first.lines.get().wording == "Halloran"


def test_lines_of_a_customer_are_kept_where_the_product_has_room(owner) -> None:
    text = 'order,product,size,wording\nA1,CREW-TAG,,"Anabel\nTom"\nA2,CHOIR-RING,54,"Anabel\nTom"\n'
    taken = take_list(text.encode(), name="x", user=owner)
    tag, ring = taken.lines.order_by("order")
    assert (tag.wording, tag.open_question) == ("Anabel\nTom", "")
    assert (ring.wording, ring.candidates) == ("Anabel Tom", ["Anabel Tom"])
    assert "2 lines" in ring.open_question
    make_list(taken.pk)
    tag.refresh_from_db()
    assert tag.stage == Stage.READY
    # In one line the same words are as high as the width of the plate allows.
    alone = change_wording(tag.pk, "Anabel Tom", user=owner)
    assert alone.height_mm < tag.revision.height_mm
    # The same list again says the same words, so that nothing is changed and nobody is asked.
    change_wording(tag.pk, "Anabel\nTom", user=owner)
    assert counts(text, owner) == (0, 0, 2, 0, 0)


def test_what_was_taken_in_is_said_as_it_is(owner_client, owner) -> None:
    for rows, level in (("A1,1,CREW-TAG,,Ana,1,,\n", "success"), ("A2,1,NO-SUCH,,Ana,1,,\n", "warning")):
        intake = open_intake((HEADER + rows).encode(), name="x", source="", user=owner)
        page = owner_client.post(reverse("intake:take-in", args=[intake.pk]), {"do": "take"}, follow=True)
        assert re.findall(r'data-said="(\w+)"', page.content.decode()) == [level]


def test_a_row_set_aside_shows_the_cells_that_matter_and_the_whole_row_on_asking(owner_client, owner) -> None:
    head = "order,product,size,wording,quantity,due,customer,note\n"
    text = head + "A1,CHOIR-RING,huge,Ana,two,2027-01-01,Ferry,by post\n"
    intake = open_intake(text.encode(), name="x", source="", user=owner)
    page = owner_client.get(intake.get_absolute_url()).content.decode()
    before, _, folded = page[page.index("row 2") :].partition("<details>")
    assert (
        all(word in before for word in ("A1", "CHOIR-RING", "Ana", "huge", "two")) and "by post" not in before
    )
    assert "by post" in folded
    take(intake, user=owner)
    row = SetAsideRow.objects.get()
    assert row.columns == ["quantity", "size"]
    page = owner_client.get(reverse("intake:set-aside")).content.decode()
    shown, _, folded = page[page.index("data-aside") :].partition("<details")
    assert shown.count('aria-invalid="true"') == 2 and 'value="by post"' in folded
    # Only what was typed anew is sent; the rest stays as it came.
    owner_client.post(reverse("intake:retry", args=[row.pk]), {"cell-2": "54", "cell-4": "2"})
    made = OrderLine.objects.get()
    assert (made.size, made.quantity, made.note, str(made.due)) == ("54", 2, "by post", "2027-01-01")


def test_encodings_are_offered_with_words_as_they_would_read(owner_client, owner) -> None:
    text = "order,product,wording\nA1,CREW-TAG,Jürgen\n".encode("cp1252")
    intake = open_intake(text, name="x", source="", user=owner)
    page = owner_client.get(intake.get_absolute_url()).content.decode()
    assert "Windows-1252: Jürgen" in page and "Mac Roman: J¸rgen" in page
    assert "Shift-JIS: " not in page  # as it can't be that


def test_a_second_fault_can_be_given_its_meaning_too(owner) -> None:
    text = "order,product,wording,quantity,typeface\nA1,NAME-PLATE,Ivy,two,Curly\nA2,NAME-PLATE,Ivy,1,Curly\n"
    take_list(text.encode(), name="x", user=owner)
    assert set_alias("Curly", Word.TYPEFACE, "sacramento", user=owner) == 1
    left = SetAsideRow.objects.get()
    assert left.columns == ["quantity"] and "Curly" not in left.reason

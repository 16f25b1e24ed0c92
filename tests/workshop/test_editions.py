"""Two people, and lists and workers beside them: nobody's work is lost, nothing is made twice, nobody waits for ever."""

from __future__ import annotations

import random
import threading
from collections.abc import Callable

import pytest
from django.db import connection, connections
from django.urls import reverse

from kizami.errors import OrderListError, RowError
from kizami.products.product import Word
from tests.conftest import make_user
from tests.workshop.drawn import as_drawn, ticked
from tests.workshop.lists import HEADER
from workshop.catalogue.models import Product
from workshop.intake.models import Question, SetAsideRow
from workshop.intake.putting_right import decide, retry_row, set_alias
from workshop.intake.taking import open_intake, take, take_list
from workshop.making.keeping import StaleEditionError, change_wording
from workshop.making.many import act_on_many
from workshop.making.tasks import make_list
from workshop.orders.models import OrderLine, OrderList
from workshop.orders.stages import Stage

LIST = HEADER + "".join(f"A{n},1,CREW-TAG,,Name {n},2,2027-01-10,Choir\n" for n in range(1, 4))


def at_once(*acts: Callable[[], object]) -> list[object]:
    """What each act came to, all begun at the same moment, each in a session of its own."""
    begin = threading.Barrier(len(acts))
    found: list[object] = [None] * len(acts)

    def run(place: int, act: Callable[[], object]) -> None:
        try:
            begin.wait()
            found[place] = act()
        except Exception as error:  # noqa: BLE001 - whatever it is, the test wants to see it
            found[place] = error
        finally:
            connections.close_all()

    threads = [threading.Thread(target=run, args=(place, act)) for place, act in enumerate(acts)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(120)
    assert not any(thread.is_alive() for thread in threads)
    return found


def errors(found: list[object]) -> list[type]:
    return sorted((type(one) for one in found if isinstance(one, Exception)), key=lambda kind: kind.__name__)


@pytest.mark.django_db
class TestForms:
    """One after the other, as pages are."""

    @pytest.fixture
    def line(self, owner) -> OrderLine:
        taken = take_list(LIST.encode(), name="x", user=owner)
        make_list(taken.pk)
        return taken.lines.get(order="A1")

    def test_a_save_on_an_older_edition_changes_nothing_and_shows_both(
        self, owner, owner_client, client, line: OrderLine
    ) -> None:
        mine = as_drawn(line, {"wording": "Mine", "chosen": "1", "height_mm": "5"})
        change_wording(line.pk, "Theirs", user=make_user("Bench"))
        answer = owner_client.post(reverse("bench:keep", args=[line.pk]), mine)
        page = answer.content.decode()
        line.refresh_from_db()
        assert (answer.status_code, line.wording, line.choices) == (409, "Theirs", {})
        assert ">Mine</textarea>" in page and "Theirs" in page and 'value="5' in page
        assert "bench" in page[page.index("data-stale") :][:900]
        # Seen and kept once more, it is taken.
        again = as_drawn(line, {"wording": "Mine", "chosen": "1", "height_mm": "5"})
        assert owner_client.post(reverse("bench:keep", args=[line.pk]), again).status_code == 302
        line.refresh_from_db()
        assert line.wording == "Mine"

    @pytest.mark.parametrize("edition", ["", "x", "-1", "9" * 30, "0", "2.5"])
    def test_a_form_without_an_edition_that_is_one_changes_nothing(
        self, owner_client, line: OrderLine, edition: str
    ) -> None:
        sent = {"wording": "Mine", "edition": edition}
        assert owner_client.post(reverse("bench:keep", args=[line.pk]), sent).status_code == 409
        line.refresh_from_db()
        assert line.wording == "Name 1"

    def test_making_is_no_change_that_a_form_could_miss(self, owner, owner_client) -> None:
        taken = take_list(LIST.encode(), name="x", user=owner)
        line = taken.lines.get(order="A1")
        drawn = as_drawn(line, {"wording": "Mine"})
        make_list(taken.pk)
        assert owner_client.post(reverse("bench:keep", args=[line.pk]), drawn).status_code == 302

    def test_a_corrected_list_is_a_change(self, owner, owner_client, line: OrderLine) -> None:
        drawn = as_drawn(line, {"wording": "Mine"})
        take_list(LIST.replace("Name 1", "Name One").encode(), name="y", user=owner)
        assert owner_client.post(reverse("bench:keep", args=[line.pk]), drawn).status_code == 409

    def test_ticked_lines_that_somebody_changed_are_left_alone(
        self, owner, owner_client, line: OrderLine
    ) -> None:
        others = [ticked(row) for row in OrderLine.objects.order_by("pk")]
        change_wording(line.pk, "Theirs", user=owner)
        page = owner_client.post(reverse("book:act"), {"do": "rush", "line": others}, follow=True).content
        assert "2 lines are to be made before others; 1 was left alone" in page.decode()
        assert list(OrderLine.objects.order_by("pk").values_list("rush", flat=True)) == [False, True, True]

    def test_a_list_that_is_taken_already_is_said(self, owner, owner_client) -> None:
        intake = open_intake(LIST.encode(), name="x", source="", user=owner)
        address = reverse("intake:take-in", args=[intake.pk])
        for count in (1, 1):
            page = owner_client.post(address, {"do": "take"}, follow=True)
            assert page.status_code == 200 and OrderList.objects.count() == count
        assert 'data-said="warning"' in page.content.decode()

    def test_the_same_rows_are_set_aside_once(self, owner) -> None:
        text = LIST + "A9,1,NO-SUCH,,Ana,1,,\n"
        take_list(text.encode(), name="x", user=owner)
        again = take_list(text.encode(), name="y", user=owner)
        assert SetAsideRow.objects.count() == 1
        assert "1 set aside before" in again.events.get().what

    def test_what_no_database_takes_is_left_out_of_a_cell(self, owner, owner_client) -> None:
        take_list((LIST + "A9,1,NO-SUCH,,Ana,1,,\n").encode(), name="x", user=owner)
        address = reverse("intake:retry", args=[SetAsideRow.objects.get().pk])
        assert owner_client.post(address, {"cell-2": "CREW-TAG", "cell-4": "A\0na"}).status_code == 302
        assert OrderLine.objects.get(order="A9").wording == "Ana"

    def test_a_row_that_somebody_put_right_already_is_said(self, owner, owner_client) -> None:
        take_list((LIST + "A9,1,NO-SUCH,,Ana,1,,\n").encode(), name="x", user=owner)
        row = SetAsideRow.objects.get()
        cells = ["A9", "1", "CREW-TAG", "", "Ana", "1", "", ""]
        assert retry_row(row, cells, user=owner) is not None
        page = owner_client.post(reverse("intake:retry", args=[row.pk]), {"cell-2": "CREW-TAG"}, follow=True)
        assert page.status_code == 200 and "put right by somebody else" in page.content.decode()
        assert OrderLine.objects.filter(order="A9").count() == 1


@pytest.mark.django_db(transaction=True)
class TestAtOnce:
    """Sessions beside each other."""

    @pytest.fixture
    def people(self, shop):
        yield make_user("Owner"), make_user("Bench")
        # What is asked of the workers is no table of Django's and is not emptied with them.
        with connection.cursor() as cursor:
            cursor.execute("DELETE FROM procrastinate_jobs")

    def test_two_keep_the_same_line(self, people) -> None:
        taken = take_list(LIST.encode(), name="x", user=people[0])
        line = taken.lines.get(order="A1")
        found = at_once(
            *(
                lambda words=words, user=user: change_wording(line.pk, words, user=user, edition=line.edition)
                for words, user in zip(("Otto", "Ida"), people, strict=True)
            )
        )
        assert errors(found) == [StaleEditionError]
        line.refresh_from_db()
        kept = next(one for one in found if not isinstance(one, Exception))
        assert (line.wording, line.revision_id, line.edition) == (kept.wording, kept.pk, 2)

    def test_a_corrected_list_is_taken_while_the_bench_keeps(self, people) -> None:
        owner, bench = people
        taken = take_list(LIST.encode(), name="x", user=owner)
        line = taken.lines.get(order="A1")
        intake = open_intake(LIST.replace("Name 1", "Name One").encode(), name="y", source="", user=owner)
        found = at_once(
            lambda: take(intake, user=owner),
            lambda: change_wording(line.pk, "Benched", user=bench, edition=line.edition),
        )
        assert errors(found) in ([], [StaleEditionError])
        line.refresh_from_db()
        if line.wording == "Benched":
            # The bench was first: what the list wants is a question, and nothing is overwritten.
            assert Question.objects.get(line=line).decided_at is None
        else:
            assert line.wording == "Name One" and isinstance(found[1], StaleEditionError)

    def test_two_take_the_same_list(self, people) -> None:
        text = LIST + "A9,1,NO-SUCH,,Ana,1,,\n"
        one = open_intake(text.encode(), name="x", source="", user=people[0])
        found = at_once(*(lambda user=user: take(one, user=user) for user in people))
        assert errors(found) == [OrderListError]
        assert (OrderList.objects.count(), OrderLine.objects.count(), SetAsideRow.objects.count()) == (
            1,
            3,
            1,
        )

    def test_two_take_a_list_that_each_has_on_trial(self, people) -> None:
        text = LIST + "A9,1,NO-SUCH,,Ana,1,,\n"
        trials = [open_intake(text.encode(), name="x", source="", user=user) for user in people]
        found = at_once(
            *(lambda i=i, user=user: take(i, user=user) for i, user in zip(trials, people, strict=True))
        )
        assert errors(found) == []
        assert (OrderLine.objects.count(), SetAsideRow.objects.count()) == (3, 1)

    def test_a_product_is_kept_twice_at_once(self, people) -> None:
        table = Product.objects.get(code="CREW-TAG", is_current=True).table
        changed = [{**table, "name": f"Crew tag {n}"} for n in range(4)]
        found = at_once(*(lambda t=t: Product.objects.put(t) for t in changed))
        assert errors(found) == []
        versions = Product.objects.filter(code="CREW-TAG").order_by("version")
        assert [row.version for row in versions] == [1, 2, 3, 4, 5]
        assert [row.is_current for row in versions] == [False] * 4 + [True]
        new = {**table, "code": "NEW-TAG"}
        found = at_once(*(lambda: Product.objects.put(new) for _ in range(3)))
        assert errors(found) == [] and Product.objects.filter(code="NEW-TAG").count() == 1

    def test_a_question_is_decided_once(self, people) -> None:
        owner, bench = people
        taken = take_list(LIST.encode(), name="x", user=owner)
        make_list(taken.pk)
        change_wording(taken.lines.get(order="A1").pk, "Benched", user=bench)
        take_list(LIST.replace("Name 1", "Name One").encode(), name="y", user=owner)
        question = Question.objects.get()
        found = at_once(
            lambda: decide(question, take_it=True, user=owner),
            lambda: decide(question, take_it=False, user=bench),
        )
        assert errors(found) == [RowError]

    def test_questions_are_decided_while_lists_are_taken(self, people) -> None:
        """A list that is taken replaces questions whose lines it locks; who decides one locks its line as well."""
        owner, bench = people
        taken = take_list(LIST.encode(), name="x", user=owner)
        make_list(taken.pk)
        for line in taken.lines.all():
            change_wording(line.pk, f"Benched {line.order}", user=bench)

        def lists() -> None:
            for n in range(12):
                take_list(LIST.replace("Name", f"Name {n}").encode(), name="y", user=owner)

        def decides() -> None:
            for _ in range(30):
                question = Question.objects.filter(decided_at=None).order_by("?").first()
                if question is not None:
                    try:
                        decide(question, take_it=question.pk % 2 == 0, user=bench)
                    except RowError:
                        continue

        assert errors(at_once(lists, decides, decides)) == []

    def test_a_row_and_a_list_bring_the_same_line(self, people) -> None:
        owner, bench = people
        take_list((LIST + "A9,1,NO-SUCH,,Ana,1,,\n").encode(), name="x", user=owner)
        row = SetAsideRow.objects.get()
        cells = ["A9", "1", "CREW-TAG", "", "Ana", "1", "", ""]
        text = LIST + "A9,1,CREW-TAG,,Ana,1,,\n"
        found = at_once(
            lambda: retry_row(row, cells, user=bench), lambda: take_list(text.encode(), name="y", user=owner)
        )
        assert errors(found) == [] and OrderLine.objects.filter(order="A9").count() == 1

    def test_two_give_words_their_meaning(self, people) -> None:
        owner, _ = people
        for source in ("Shop A", "Shop B"):
            rows = "".join(f"{source}{n},1,NO-SUCH,,Ana {n},1,,\n" for n in range(6))
            take_list((HEADER + rows).encode(), name="x", user=owner, source=source)
        found = at_once(
            *(lambda user=user: set_alias("NO-SUCH", Word.PRODUCT, "CREW-TAG", user=user) for user in people)
        )
        assert errors(found) == [] and sum(found) == 12
        assert OrderLine.objects.count() == 12 and not SetAsideRow.objects.exists()

    def test_five_hundred_acts_in_any_order_never_lock_each_other_out(self, people, monkeypatch) -> None:
        """Four sessions, each with acts of its own order, over lines that share a set and a list."""
        owner, bench = people
        text = "order,line,product,wording,quantity,set\n" + "".join(
            f"S1,{n},CREW-TAG,Name {n},{1 + n % 3},crew\n" for n in range(1, 5)
        )
        text += "S2,1,CREW-TAG,Alone,1,\nS2,2,HIVE-PLATE,Other,2,\n"
        taken = take_list(text.encode(), name="x", user=owner)
        keys = list(taken.lines.order_by("pk").values_list("pk", flat=True))

        def session(seed: int) -> Callable[[], int]:
            rnd = random.Random(seed)

            def act() -> int:
                done = 0
                for _ in range(125):
                    kind = rnd.random()
                    if kind < 0.35:
                        line = OrderLine.objects.get(pk=rnd.choice(keys))
                        edition = rnd.choice((line.edition, line.edition, None, 1))
                        try:
                            change_wording(line.pk, f"W{rnd.randint(0, 3)}", user=owner, edition=edition)
                        except StaleEditionError:
                            continue
                    elif kind < 0.6:
                        some = rnd.sample(keys, rnd.randint(1, len(keys)))
                        do = rnd.choice(("rush", "no rush", "make again", "take proposals"))
                        act_on_many(dict.fromkeys(some), do=do, user=bench)
                    elif kind < 0.75:
                        said = text.replace("Alone", f"Alone {rnd.randint(0, 3)}").replace(
                            "Name 2", f"N{seed}"
                        )
                        take_list(said.encode(), name=f"c{seed}", user=owner)
                    else:
                        make_list(rnd.choice(list(OrderList.objects.values_list("pk", flat=True))))
                    done += 1
                return done

            return act

        found = at_once(*(session(seed) for seed in range(4)))
        assert errors(found) == []
        assert sum(found) > 250
        for order_list in OrderList.objects.all():
            make_list(order_list.pk)
        for line in OrderLine.objects.select_related("revision"):
            assert line.stage in (Stage.READY, Stage.HELD)
            assert line.revision.wording == line.wording and line.revision.stage == line.stage
            assert [piece.stage for piece in line.pieces.all()] == [line.stage] * line.quantity
            numbers = list(line.revisions.order_by("number").values_list("number", flat=True))
            assert numbers == list(range(1, len(numbers) + 1))
        with connection.cursor() as cursor:
            cursor.execute("SELECT count(*) FROM orders_piece GROUP BY line_id, number HAVING count(*) > 1")
            assert cursor.fetchall() == []

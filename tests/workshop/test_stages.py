"""Where pieces and lines stand: held by the database, whoever writes to it."""

from __future__ import annotations

import random

import pytest
from django.db import IntegrityError, transaction
from django.urls import reverse

from kizami.errors import RowError
from tests.workshop.drawn import as_drawn, send_on
from tests.workshop.lists import HEADER
from workshop.intake.models import Question
from workshop.intake.putting_right import decide
from workshop.intake.taking import take_list
from workshop.making.keeping import KeepingError, NothingToChangeError, change_wording, step
from workshop.making.many import act_on_many
from workshop.making.tasks import make_list
from workshop.orders.models import OrderLine, Piece
from workshop.orders.stages import ON_PAPER, UNDER_WAY, Stage

pytestmark = pytest.mark.django_db
THREE = HEADER + "A1,1,CREW-TAG,,Halloran,3,,Ferry\n"
#: Where a piece may go from where it stands.
MAY_BECOME = {
    Stage.NEW: {Stage.NEW, Stage.HELD, Stage.READY},
    Stage.HELD: {Stage.NEW, Stage.HELD, Stage.READY},
    Stage.READY: {Stage.NEW, Stage.HELD, Stage.READY, Stage.IN_RUN},
    Stage.IN_RUN: {Stage.READY, Stage.IN_RUN, Stage.MADE},
    Stage.MADE: {Stage.MADE, Stage.SENT},
    Stage.SENT: {Stage.SENT},
}
#: What a line shows of pieces that stand differently, the first that there is.
SHOWN = (Stage.HELD, Stage.NEW, Stage.READY, Stage.IN_RUN, Stage.MADE, Stage.SENT)


@pytest.fixture
def line(owner) -> OrderLine:
    make_list(take_list(THREE.encode(), name="x", user=owner).pk)
    return OrderLine.objects.get()


def bring(piece: Piece, stage: Stage) -> None:
    """To a stage by the way that pieces go."""
    way = [Stage.IN_RUN, Stage.MADE, Stage.SENT] if stage in UNDER_WAY else [stage]
    for one in way:
        Piece.objects.filter(pk=piece.pk).update(stage=one)
        if one == stage:
            return


@pytest.mark.parametrize("before", Stage)
@pytest.mark.parametrize("after", Stage)
def test_a_piece_goes_only_where_pieces_go(line: OrderLine, before: Stage, after: Stage) -> None:
    piece = line.pieces.first()
    bring(piece, before)
    if after in MAY_BECOME[before]:
        Piece.objects.filter(pk=piece.pk).update(stage=after)
        assert Piece.objects.get(pk=piece.pk).stage == after
        return
    with pytest.raises(IntegrityError, match="can not become"), transaction.atomic():
        Piece.objects.filter(pk=piece.pk).update(stage=after)
    assert Piece.objects.get(pk=piece.pk).stage == before


@pytest.mark.parametrize("stage", UNDER_WAY)
def test_a_piece_on_its_way_keeps_its_revision_and_stays(line: OrderLine, owner, stage: Stage) -> None:
    piece = line.pieces.first()
    bring(piece, stage)
    other = change_wording(line.pk, "Ida", user=owner)
    for attempt in (
        lambda: Piece.objects.filter(pk=piece.pk).update(revision=other),
        lambda: Piece.objects.filter(pk=piece.pk).update(revision=None),
        lambda: Piece.objects.filter(pk=piece.pk).delete(),
    ):
        with pytest.raises(IntegrityError), transaction.atomic():
            attempt()
    assert Piece.objects.get(pk=piece.pk).stage == stage


def test_nothing_is_ready_without_a_revision(owner) -> None:
    take_list(THREE.encode(), name="x", user=owner)
    for stage in (Stage.HELD, Stage.READY):
        with pytest.raises(IntegrityError), transaction.atomic():
            Piece.objects.update(stage=stage)


@pytest.mark.parametrize("change", [{"stage": Stage.SENT}, {"under_way": 2}, {"stage": Stage.NEW}])
def test_nobody_writes_where_a_line_stands(line: OrderLine, change: dict[str, object]) -> None:
    with pytest.raises(IntegrityError, match="follows from its pieces"), transaction.atomic():
        OrderLine.objects.update(**change)


def test_a_line_stands_where_the_piece_stands_that_needs_somebody_most(line: OrderLine) -> None:
    first, second, third = line.pieces.all()
    for stages, shown, under_way in (
        ((Stage.SENT, Stage.READY, Stage.READY), Stage.READY, 1),
        ((Stage.SENT, Stage.MADE, Stage.HELD), Stage.HELD, 2),
        ((Stage.SENT, Stage.MADE, Stage.NEW), Stage.NEW, 2),
        ((Stage.SENT, Stage.MADE, Stage.READY), Stage.READY, 2),
        ((Stage.SENT, Stage.MADE, Stage.MADE), Stage.MADE, 3),
        ((Stage.SENT, Stage.SENT, Stage.SENT), Stage.SENT, 3),
    ):
        for piece, stage in zip((first, second, third), stages, strict=True):
            piece.refresh_from_db()
            if piece.stage != stage:
                bring(piece, stage) if piece.stage in ON_PAPER else Piece.objects.filter(pk=piece.pk).update(
                    stage=stage
                )
        line.refresh_from_db()
        assert (line.stage, line.under_way) == (shown, under_way)


def test_other_words_are_for_the_pieces_that_are_still_on_paper(owner_client, line: OrderLine, owner) -> None:
    sent = line.pieces.get(number=2)
    bring(sent, Stage.SENT)
    kept = change_wording(line.pk, "Ida", user=owner)
    sent.refresh_from_db()
    assert (sent.stage, sent.revision.wording) == (Stage.SENT, "Halloran")
    assert set(line.pieces.exclude(pk=sent.pk).values_list("stage", "revision")) == {("ready", kept.pk)}
    page = owner_client.get(line.get_absolute_url()).content.decode()
    assert "1 of 3 pieces is in a run, made or sent and stays as it is" in page


def test_a_line_that_is_on_its_way_as_a_whole_can_t_be_changed(owner_client, line: OrderLine, owner) -> None:
    send_on(OrderLine.objects.all(), Stage.IN_RUN)
    before = line.revisions.count()
    for act in (
        lambda: change_wording(line.pk, "Ida", user=owner),
        lambda: step(line.pk, back=True, user=owner),
    ):
        with pytest.raises(NothingToChangeError, match="Order what is to be different as a new line"):
            act()
    assert "1 was left alone" in act_on_many({line.pk: None}, do="make again", user=owner)
    line.refresh_from_db()
    assert (line.wording, line.stage, line.revisions.count()) == ("Halloran", Stage.IN_RUN, before)
    address = reverse("bench:keep", args=[line.pk])
    page = owner_client.post(address, as_drawn(line, {"wording": "Ida"}), follow=True).content.decode()
    assert "as a new line" in page and "nothing of it can be changed any more" in page


class TestLists:
    """What corrected lists do to pieces that are on their way."""

    def test_fewer_pieces_are_taken_from_those_on_paper(self, line: OrderLine, owner) -> None:
        take_list(THREE.replace(",3,", ",1,").encode(), name="y", user=owner)
        assert line.pieces.count() == 1

    def test_fewer_than_are_on_their_way_is_refused_in_words(self, line: OrderLine, owner) -> None:
        for piece in line.pieces.filter(number__gt=1):
            bring(piece, Stage.MADE)
        take_list(THREE.replace(",3,", ",1,").encode(), name="y", user=owner)
        question = Question.objects.get()
        assert "2 of its 3 pieces are in a run, made or sent already" in question.why
        with pytest.raises(RowError, match="can't become that"):
            decide(question, take_it=True, user=owner)
        assert Question.objects.get().decided_at is None and line.pieces.count() == 3

    def test_more_pieces_are_new_ones(self, line: OrderLine, owner) -> None:
        bring(line.pieces.get(number=1), Stage.SENT)
        take_list(THREE.replace(",3,", ",5,").encode(), name="y", user=owner)
        decide(Question.objects.get(), take_it=True, user=owner)
        assert list(line.pieces.values_list("stage", flat=True)) == ["sent", "new", "new", "new", "new"]

    def test_what_is_wanted_of_made_pieces_is_refused_in_words(self, line: OrderLine, owner) -> None:
        send_on(OrderLine.objects.all(), Stage.MADE)
        take_list(THREE.replace("Halloran", "Odile").encode(), name="y", user=owner)
        with pytest.raises(RowError, match="order what is to be different as a new line"):
            decide(Question.objects.get(), take_it=True, user=owner)
        line.refresh_from_db()
        assert (line.wording, line.stage) == ("Halloran", Stage.MADE)


@pytest.mark.parametrize("seed", range(6))
def test_whatever_is_done_in_any_order_pieces_never_fall_back(line: OrderLine, owner, seed: int) -> None:
    rnd = random.Random(seed)
    number = 0
    for _ in range(25):
        before = {p.pk: (p.stage, p.revision_id) for p in line.pieces.all()}
        act = rnd.choice(("keep", "back", "forth", "again", "list", "decide", "send", "make"))
        if act == "send":
            piece = rnd.choice(list(line.pieces.exclude(stage__in=(Stage.NEW, Stage.HELD))) or [None])
            if piece is not None and piece.stage != Stage.SENT:
                after = {Stage.READY: Stage.IN_RUN, Stage.IN_RUN: Stage.MADE, Stage.MADE: Stage.SENT}
                Piece.objects.filter(pk=piece.pk).update(stage=after[piece.stage])
                before[piece.pk] = (after[piece.stage], piece.revision_id)
        else:
            try:
                with transaction.atomic():
                    if act == "keep":
                        change_wording(line.pk, rnd.choice(("Ida", "Bo", "⚓")), user=owner)
                    elif act in ("back", "forth"):
                        step(line.pk, back=act == "back", user=owner)
                    elif act == "again":
                        act_on_many({line.pk: None}, do="make again", user=owner)
                    elif act == "list":
                        number += 1
                        text = THREE.replace("Halloran", f"Name {number}").replace(
                            ",3,", f",{rnd.randint(1, 5)},"
                        )
                        take_list(text.encode(), name=str(number), user=owner)
                    elif act == "decide" and (question := Question.objects.filter(decided_at=None).first()):
                        decide(question, take_it=rnd.random() < 0.7, user=owner)
                    elif act == "make":
                        make_list(OrderLine.objects.get().order_list_id)
            except (KeepingError, RowError):
                pass  # refused in words, which is as good
        line.refresh_from_db()
        pieces = list(line.pieces.all())
        stages = {piece.stage for piece in pieces}
        assert line.stage == next(stage for stage in SHOWN if stage in stages)
        assert line.under_way == sum(piece.stage in UNDER_WAY for piece in pieces)
        assert len(pieces) == line.quantity
        now = {piece.pk: (piece.stage, piece.revision_id) for piece in pieces}
        for pk, (stage, revision) in before.items():
            if stage in UNDER_WAY:
                assert now[pk] == (stage, revision), act

"""The first hour of a shop: what there is already, and what comes next; left out once the shop is running."""

from __future__ import annotations

from dataclasses import dataclass

from django.contrib.auth.models import User
from django.urls import reverse

from workshop.catalogue.models import Product
from workshop.orders.models import OrderLine, OrderList, Piece
from workshop.orders.stages import UNDER_WAY

__all__ = ["FirstStep", "first_steps"]

#: A shop with so many lines has found its way.
_LINES_OF_A_RUNNING_SHOP = 30


@dataclass(frozen=True, kw_only=True, slots=True)
class FirstStep:
    """One step.

    Attributes
    ----------
    name, said : what it is, and what it is for
    address : where it is done
    permission : who may; "" for everybody
    is_done : there is something of it already
    """

    name: str
    said: str
    address: str
    permission: str
    is_done: bool

    def is_for(self, user: User) -> bool:
        """Whether somebody may do it."""
        return not self.permission or user.has_perm(self.permission)


def first_steps(user: User) -> list[FirstStep]:
    """What somebody may do, in its order; nothing once pieces were in a run or there are many lines."""
    began = Piece.objects.filter(stage__in=UNDER_WAY).exists()
    if began or OrderLine.objects.all()[_LINES_OF_A_RUNNING_SHOP:].exists():
        return []
    steps = (
        FirstStep(
            name="A product",
            said="a blank, its lettering and how it is made",
            address=reverse("catalogue:new"),
            permission="catalogue.change_catalogue",
            is_done=Product.objects.exists(),
        ),
        FirstStep(
            name="An order list",
            said="a file or pasted rows; every line is set, made and checked",
            address=reverse("intake:take"),
            permission="orders.take_list",
            is_done=OrderList.objects.exists(),
        ),
        FirstStep(
            name="A run",
            said="ready pieces on a plate, a sheet or a tree",
            address=reverse("runs:runs"),
            permission="",
            is_done=False,
        ),
        FirstStep(
            name="People",
            said="others who work here, at any time",
            address=reverse("people:people"),
            permission="people.manage_people",
            is_done=User.objects.filter(is_active=True)[1:].exists(),
        ),
    )
    return [step for step in steps if step.is_for(user)]

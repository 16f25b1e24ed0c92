"""Lines found by typing: every word stands somewhere, with or without its accents, give or take one slip."""

from __future__ import annotations

import re
from dataclasses import dataclass, field, replace

from django.db.models import Q, Value
from django.db.models.functions import Concat
from rapidfuzz import process
from rapidfuzz.distance import OSA

from workshop.catalogue.models import Product
from workshop.orders.folding import Fold, fold_words
from workshop.orders.known_words import words_of_length
from workshop.orders.models import OrderLine

__all__ = ["Search"]

_MOST_WORDS = 8
_MOST_NEAR = 4
#: Shorter words are one slip away from too many others.
_SHORTEST = 3
_WORD = re.compile(r"[^\W_]+")
_DAY = re.compile(r"\d{4}(?:-\d{0,2}){0,2}|\d{1,2}-\d{1,2}")


@dataclass(frozen=True, kw_only=True, slots=True)
class Search:
    """What typed words ask for.

    Attributes
    ----------
    words : as typed, with each as it is folded
    products : folded code and name of every product
    asked : the condition that lines must fulfil
    instead : typed words that stand nowhere, with those a slip away that are shown in their place
    offered : words that may have been meant where nothing is found, as whole searches
    """

    words: dict[str, str]
    products: dict[int, str]
    asked: Q
    instead: dict[str, list[str]] = field(default_factory=dict)
    offered: tuple[str, ...] = ()

    @classmethod
    def of(cls, typed: str) -> Search:
        """Read what was typed, in two queries."""
        words = typed.split()[:_MOST_WORDS]
        if not words:
            return cls(words={}, products={}, asked=Q())
        folded = dict(zip(words, fold_words(words), strict=True))
        products = _products()
        asked = Q(*(_stands(plain, products) for plain in folded.values()))
        return cls(words=folded, products=products, asked=asked)

    def forgiving(self) -> Search:
        """Itself where its words stand somewhere in the book together, else with what may have been meant."""
        if not self.words or OrderLine.objects.filter(self.asked).exists():
            return self
        asked = {word: _stands(plain, self.products) for word, plain in self.words.items()}
        instead: dict[str, list[str]] = {}
        offered: list[str] = []
        for word, plain in self.words.items():
            # That all of them stand nowhere is known already.
            if len(asked) > 1 and OrderLine.objects.filter(asked[word]).exists():
                continue
            near, others = _near(plain, self.products)
            if near:
                instead[word] = near
                found = [_stands(one, self.products) for one in near]
                asked[word] = found[0]
                for more in found[1:]:
                    asked[word] |= more
            else:
                offered += [" ".join(one if word == other else other for other in asked) for one in others]
        return replace(self, asked=Q(*asked.values()), instead=instead, offered=tuple(offered[:_MOST_NEAR]))


def _products() -> dict[int, str]:
    """Folded code and name of every product."""
    text = Fold(Concat("code", Value(" "), "name"))
    return dict(Product.objects.annotate(words=text).values_list("pk", "words"))


def _stands(word: str, products: dict[int, str]) -> Q:
    """That a folded word stands somewhere in a line."""
    asked = Q(folded__contains=word)
    named = [pk for pk, text in products.items() if word in text]
    if named:
        asked |= Q(product__in=named)
    if _DAY.fullmatch(word):
        asked |= Q(due__icontains=word)
    return asked


def _near(word: str, products: dict[int, str]) -> tuple[list[str], list[str]]:
    """Words of the book that a folded word is one slip away from, and else those that are likest."""
    if len(word) < _SHORTEST:
        return [], []
    length = len(word)
    known = words_of_length(length - 1)
    for text in products.values():
        known.update(_WORD.findall(text))
    # What is typed may be the beginning of a longer word.
    beginnings = known | {one[:length] for one in known} | {one[: length + 1] for one in known}
    beginnings = [part for part in beginnings if len(part) >= _SHORTEST - 1]
    farthest = max(2, length // 3)
    found = process.extract(word, beginnings, scorer=OSA.distance, score_cutoff=farthest, limit=None)
    ranked = sorted((distance, abs(len(part) - length), part) for part, distance, _ in found)
    near = [part for distance, _, part in ranked if distance == 1]
    # One digit more or less is another order, not a slip.
    if any(sign.isdigit() for sign in word):
        return [], near[:_MOST_NEAR]
    whole = [part for part in near if part in known] or near
    if whole:
        return whole[:_MOST_NEAR], []
    return [], [part for *_, part in ranked if part in known][:_MOST_NEAR]

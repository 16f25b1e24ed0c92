"""The feed's page: where it is, when it was last heard, what is the matter."""

from __future__ import annotations

from django import forms
from django.contrib import messages
from django.core.validators import URLValidator
from django.db import IntegrityError, transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from workshop.feeds.models import Feed
from workshop.sources.models import Source


class FeedForm(forms.ModelForm):
    """Where a feed is and whether it is listened to."""

    address = forms.URLField(
        max_length=300, assume_scheme="http", validators=[URLValidator(schemes=("http", "https"))]
    )

    class Meta:
        model = Feed
        fields = ["address", "is_on"]


@require_GET
def feeds(request: HttpRequest) -> HttpResponse:
    """Every feed."""
    rows = Feed.objects.select_related("source")
    return render(request, "feeds/feeds.html", {"feeds": rows, "place": "book"})


#: More shops than a workshop sells through.
_MOST_FEEDS = 20


@require_POST
def add(request: HttpRequest) -> HttpResponse:
    """Listen to another shop; its orders belong to a sender of that name."""
    name = " ".join(request.POST.get("name", "").split())
    form = FeedForm({"address": request.POST.get("address", ""), "is_on": "on"})
    trouble = ""
    if not 0 < len(name) <= Source._meta.get_field("name").max_length:
        trouble = "Give the shop a name of up to 80 characters, as the Order book is to call it."
    elif not form.is_valid():
        trouble = "That is not an address; write it as https://shop.example/kizami."
    elif Feed.objects.count() >= _MOST_FEEDS:
        trouble = f"There may be {_MOST_FEEDS} shop feeds. Change one that is no longer asked."
    if not trouble:
        try:
            with transaction.atomic():
                feed = form.save(commit=False)
                feed.source = Source.objects.create(name=name)
                feed.save()
        except IntegrityError:
            # Lists of that sender are read in their own way and have numbers of their own.
            trouble = f"There is a sender “{name}” already; give the shop another name."
    if trouble:
        messages.error(request, f"{trouble} Nothing was added.")
        rows = Feed.objects.select_related("source")
        typed = {"name": name[:80], "address": request.POST.get("address", "")[:300]}
        context = {"feeds": rows, "place": "book", **typed}
        return render(request, "feeds/feeds.html", context, status=422)
    messages.success(request, f"{name} is asked for its orders from now on.")
    return redirect("feeds:feeds")


@require_POST
def change(request: HttpRequest, pk: int) -> HttpResponse:
    """Point a feed at another address, or switch it on and off."""
    feed = get_object_or_404(Feed, pk=pk)
    before = feed.address
    form = FeedForm(request.POST, instance=feed)
    if form.is_valid():
        changed = form.save(commit=False)
        if changed.address != before:
            # Another shop counts its pages anew; what is known of its orders keeps them from doubling.
            changed.cursor, changed.trouble = "", ""
        changed.save()
        messages.success(
            request, f"{feed.source} is at {changed.address} and {'on' if changed.is_on else 'off'}."
        )
    else:
        messages.error(request, "That is not an address; write it as http://127.0.0.1:8070.")
    return redirect("feeds:feeds")

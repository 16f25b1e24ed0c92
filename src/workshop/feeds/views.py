"""The feed's page: where it is, when it was last heard, what is the matter."""

from __future__ import annotations

from django import forms
from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from workshop.feeds.models import Feed


class FeedForm(forms.ModelForm):
    """Where a feed is and whether it is listened to."""

    address = forms.URLField(max_length=300, assume_scheme="http")

    class Meta:
        model = Feed
        fields = ["address", "is_on"]


@require_GET
def feeds(request: HttpRequest) -> HttpResponse:
    """Every feed."""
    rows = Feed.objects.select_related("source")
    return render(request, "feeds/feeds.html", {"feeds": rows, "place": "book"})


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

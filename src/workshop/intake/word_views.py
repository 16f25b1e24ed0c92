"""The shop's own words and its logos: what lists may call things, and the files that they name."""

from __future__ import annotations

from urllib.parse import quote

from django.contrib import messages
from django.core.paginator import Paginator
from django.db import transaction
from django.db.models import F
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from kizami.artwork.shelf import LARGEST_PARCEL_BYTES, MOST_FILES
from kizami.errors import ArtworkError
from kizami.pieces.lines import codes_for
from kizami.products.product import Word
from kizami.wording.cleaning import PLACEHOLDERS
from workshop.artwork.models import Logo
from workshop.catalogue.models import Product
from workshop.intake.forms import LogosForm
from workshop.intake.logo_trial import tried_on
from workshop.intake.logos import missing_of, set_in_use, set_threshold
from workshop.intake.parcels import lately_sent, send_logos
from workshop.orders.models import Event
from workshop.sources.models import Source
from workshop.words.models import Alias, Placeholders

_MOST_WORDS, _LONGEST_WORD = 500, 60
_LOGOS_SHOWN = 24


@require_GET
def words(request: HttpRequest) -> HttpResponse:
    """Aliases by what they stand for, and the placeholder words."""
    catalogue, _ = Product.objects.catalogue()
    kept = Placeholders.objects.first()
    aliases = list(Alias.objects.all()[:2000])
    groups = [
        {
            "kind": word.value,
            "aliases": [a for a in aliases if a.kind == word.value],
            "codes": codes_for("", word, catalogue),
        }
        for word in Word
    ]
    context = {
        "place": "book",
        "groups": groups,
        "placeholders": sorted(kept.words if kept is not None else PLACEHOLDERS),
        "own": kept is not None,
        "most": _MOST_WORDS,
    }
    return render(request, "intake/words.html", context)


@require_POST
def forget_alias(request: HttpRequest, pk: int) -> HttpResponse:
    """Let a word no longer stand for anything; lines that were read with it stay as they are."""
    alias = get_object_or_404(Alias, pk=pk)
    alias.delete()
    messages.success(request, f"“{alias.word}” no longer stands for {alias.target}.")
    return redirect("intake:words")


@require_POST
def set_placeholders(request: HttpRequest) -> HttpResponse:
    """Keep the shop's placeholder words, or go back to the usual ones."""
    if request.POST.get("do") == "usual":
        Placeholders.objects.all().delete()
        messages.success(request, "The usual placeholder words hold again.")
        return redirect("intake:words")
    lines = request.POST.get("words", "").splitlines()
    folded = list(dict.fromkeys(" ".join(w.split()).casefold() for w in lines if w.strip()))
    too_long = next((w for w in folded if len(w) > _LONGEST_WORD), None)
    if len(folded) > _MOST_WORDS or too_long is not None:
        which = (
            f"“{too_long[:30]}…” is longer than {_LONGEST_WORD} characters"
            if too_long
            else f"{len(folded)} words are more than {_MOST_WORDS}"
        )
        messages.error(request, f"Nothing was kept: {which}.")
        return redirect("intake:words")
    with transaction.atomic():
        Placeholders.objects.update_or_create(pk=1, defaults={"words": folded})
        Event.objects.create(who=request.user, what=f"{len(folded)} placeholder words were kept")  # type: ignore[misc]
    messages.success(request, f"{len(folded)} placeholder words hold for every list from now on.")
    return redirect("intake:words")


@require_http_methods(["GET", "POST"])
def logos(request: HttpRequest) -> HttpResponse:
    """The logos of a source: those that lines wait for, those on the shelf, and a place to add some."""
    sources = list(Source.objects.all()[:200])
    asked = request.GET.get("source", "")
    source = next((s for s in sources if str(s.pk) == asked), sources[0] if sources else None)
    form = LogosForm()
    if request.method == "POST" and source is not None:
        form = LogosForm(request.POST, request.FILES)
        if form.is_valid() and form.cleaned_data["logos"]:
            send_logos(source, form.content(), user=request.user)  # type: ignore[arg-type]
            return redirect(f"{reverse('intake:logos')}?source={source.pk}")
        messages.error(request, "Choose one or more files.")
    # Those in use first: the others are looked for when somebody asks for one.
    rows = Logo.objects.filter(source=source).select_related("retired_by")
    rows = rows.order_by(F("retired_at").desc(nulls_first=True), "name")
    parcels = lately_sent(source) if source is not None else []
    page = Paginator(rows, _LOGOS_SHOWN).get_page(request.GET.get("page"))
    context = {
        "place": "book",
        "sources": sources,
        "source": source,
        "parcels": parcels,
        "is_looking": any(parcel.looked_at is None for parcel in parcels),
        "missing": missing_of(source) if source is not None else (),
        "page": page,
        "shelf": page.object_list,
        "form": form,
        "most_mb": LARGEST_PARCEL_BYTES // 1024 // 1024,
        "most_files": MOST_FILES,
    }
    return render(request, "intake/logos.html", context)


#: Words beside a logo on trial.
_USUAL_WORDS, _LONGEST_TRIED = "Ida Berg", 60


@require_GET
def logo_trial(request: HttpRequest, pk: int) -> HttpResponse:
    """A logo on a product at once: at other greys, and how small it may be there."""
    logo = get_object_or_404(Logo.objects.select_related("source", "file"), pk=pk)
    products = list(
        Product.objects.current().filter(table__takes_logo=True).order_by("code")[:_MOST_PRODUCTS]
    )
    chosen = next(
        (p for p in products if p.code == request.GET.get("product")), products[0] if products else None
    )
    words = request.GET.get("words", _USUAL_WORDS)[:_LONGEST_TRIED]
    context = {
        "place": "book",
        "logo": logo,
        "products": products,
        "chosen": chosen,
        "words": words,
        "longest": _LONGEST_TRIED,
        "trials": [] if chosen is None else list(tried_on(logo, chosen.to_spec(), words)),
    }
    template = "intake/_logo_trials.html" if request.htmx else "intake/logo_trial.html"  # type: ignore[attr-defined]
    return render(request, template, context)


_MOST_PRODUCTS = 200


@require_POST
def logo_threshold(request: HttpRequest, pk: int) -> HttpResponse:
    """Part a picture's ink from its paper at another grey."""
    logo = get_object_or_404(Logo.objects.select_related("source"), pk=pk)
    try:
        given = request.POST.get("threshold", "")
        threshold = min(max(float(given) / 100.0, 0.02), 0.98) if given else None
        set_threshold(logo, threshold, user=request.user)  # type: ignore[arg-type]
    except ValueError:
        messages.error(request, "The grey must be a number from 2 to 98.")
    except ArtworkError as error:
        messages.error(request, f"{error} The logo stays as it was.")
    if "trial" in request.POST:
        return redirect(
            f"{reverse('intake:logo-trial', args=[logo.pk])}?product={quote(request.POST['trial'])}"
        )
    return redirect(f"{reverse('intake:logos')}?source={logo.source_id}")


@require_POST
def logo_use(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a logo out of use, or into use again."""
    logo = get_object_or_404(Logo.objects.select_related("source"), pk=pk)
    is_in_use = request.POST.get("use") == "again"
    lines = set_in_use(logo, is_in_use, user=request.user)  # type: ignore[arg-type]
    if not is_in_use:
        said = f"{logo.name} is out of use. Lines that have it keep it; others that name it are held."
    else:
        said = f"{logo.name} is in use again" + (f"; {lines} lines are made with it." if lines else ".")
    messages.success(request, said)
    return redirect(f"{reverse('intake:logos')}?source={logo.source_id}")

"""The guide, read from the documents that ship with the application."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from html import unescape
from pathlib import Path, PurePosixPath

from django.conf import settings
from django.urls import reverse
from markdown_it import MarkdownIt

__all__ = ["CHAPTER_OF", "Chapter", "Found", "chapters", "pictures", "search"]

#: Documents that are chapters as a whole, behind those of the guide itself.
_WHOLE = {
    "checks.md": "checks", "remedies.md": "remedies", "products.md": "keys-of-products-files",
    "feed.md": "shop-feeds",
}  # fmt: skip
#: The chapter that a page leads to: by the name of the page, else by its app.
CHAPTER_OF = {
    "book": "the-order-book", "intake": "take-in-a-list", "intake:logos": "typefaces-and-logos",
    "intake:logo-trial": "typefaces-and-logos", "feeds": "shop-feeds", "bench": "the-bench",
    "curing": "products", "curing:together": "remedies", "curing:keep-standard": "limits-and-materials",
    "runs": "runs", "stations": "stations", "catalogue": "products",
    "catalogue:typefaces": "typefaces-and-logos", "catalogue:standards": "limits-and-materials",
    "catalogue:standard": "limits-and-materials", "catalogue:file": "keys-of-products-files",
    "catalogue:keep-file": "keys-of-products-files", "people": "people-and-places",
    "retention": "running-it",
}  # fmt: skip


@dataclass(frozen=True, kw_only=True, slots=True)
class Chapter:
    """One chapter.

    Attributes
    ----------
    slug : as addresses name it
    html : as the page shows it, without the title
    passages : its paragraphs, rows and items as plain words, for the search
    """

    slug: str
    title: str
    html: str
    passages: tuple[str, ...]


@dataclass(frozen=True, kw_only=True, slots=True)
class Found:
    """A passage that was found."""

    chapter: Chapter
    passage: str


@cache
def chapters() -> dict[str, Chapter]:
    """Every chapter by its slug, in the order of the work; read once, as they ship with the program."""
    folder = settings.DOCS_DIR
    found = [_chapter(path, slug=path.stem.partition("-")[2]) for path in _numbered(folder)]
    found += [_chapter(folder / name, slug=slug) for name, slug in _WHOLE.items()]
    return {chapter.slug: chapter for chapter in found}


#: A page of the guide, by its file.
_PAGE = re.compile(r"[0-9]{2}-[a-z-]+\.md")
#: No HTML of its own: what looks like some is shown as it is written.
_MARKDOWN = MarkdownIt("commonmark", {"html": False}).enable("table")


def _numbered(folder: Path) -> list[Path]:
    """The pages of the guide itself, in the order of their numbers."""
    return sorted((folder / "guide").glob("[0-9][0-9]-*.md"))


def _chapter(path: Path, *, slug: str) -> Chapter:
    title, _, text = path.read_text("utf-8").partition("\n")
    html = str(_MARKDOWN.render(_linked(text)))
    return Chapter(
        slug=slug, title=title.removeprefix("# ").strip(), html=html, passages=tuple(_passages(html))
    )


def _linked(text: str) -> str:
    """Links to documents lead to their chapters; what is no chapter stays as words."""

    def link(found: re.Match[str]) -> str:
        is_picture, said, target = found[1] == "!", found[2], found[3]
        if is_picture:
            return f"![{said}]({reverse('guide:picture', args=[PurePosixPath(target).stem])})"
        name = PurePosixPath(target).name
        slug = _WHOLE.get(name) or (name[3:].removesuffix(".md") if _PAGE.fullmatch(name) else "")
        if slug:
            return f"[{said}]({reverse('guide:chapter', args=[slug])})"
        return found[0] if target.startswith(("http:", "https:")) else said

    return re.sub(r"(!?)\[([^\]]+)\]\(([^)]+)\)", link, text)


def _passages(html: str) -> Iterator[str]:
    for block in re.split(r"</(?:p|li|tr|h\d|pre)>", html):
        words = " ".join(unescape(re.sub(r"<[^>]+>", " ", block)).split())
        if words:
            yield words


@cache
def pictures() -> dict[str, Path]:
    """Every picture of the documents by its name; whatever else a page asks for is none."""
    return {path.stem: path for path in sorted((settings.DOCS_DIR / "screenshots").glob("*.png"))}


#: So many passages are shown, and so much is looked for.
_MOST_FOUND = 40


def search(words: str) -> list[Found]:
    """Passages with all of these words, whatever their letter case, in the order of the guide."""
    wanted = words.casefold().split()
    if not wanted:
        return []
    found = (
        Found(chapter=chapter, passage=passage)
        for chapter in chapters().values()
        for passage in (chapter.title, *chapter.passages)
        if all(word in passage.casefold() for word in wanted)
    )
    return [one for one, _ in zip(found, range(_MOST_FOUND), strict=False)]

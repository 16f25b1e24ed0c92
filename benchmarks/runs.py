"""Runs: packing beside the library's own best and closed bounds, files of a thousand pieces, a large page."""

from __future__ import annotations

import math
import multiprocessing
import random
import tempfile
import time
import zipfile
from collections.abc import Iterator
from functools import partial
from pathlib import Path

import numpy as np
import shapely
from scipy.spatial import ConvexHull

from benchmarks.database import shop_database
from benchmarks.figure import Figure
from kizami.outlines.moving import shifted
from kizami.pieces.batch import piece_files
from kizami.pieces.inputs import Inputs
from kizami.pieces.make import make_piece
from kizami.pieces.run_facts import run_facts
from kizami.products.product import Catalogue
from kizami.runs.body import body_of
from kizami.runs.circles import hexagonal_count
from kizami.runs.laid_piece import LaidPiece, facts_of
from kizami.runs.lay_out import lay_out
from kizami.runs.laying import Ground, Item, Shape, drawn_outline, ground_of
from kizami.runs.machine import shipped_machines
from kizami.runs.poses import lay
from kizami.runs.release import Run, release
from kizami.runs.rows import lay_in_rows
from kizami.runs.strips import lay_on_strip
from kizami.runs.tree import OnTree, build_tree, lay_on_trees
from kizami.sizes import parse_ring_size
from kizami.solids.feeding import Feed
from launch.state import REPOSITORY

__all__ = ["figures"]

_GROUP = "runs"


def figures() -> Iterator[Figure]:
    """Every figure of the group."""
    yield from _concave_tags()
    yield from _rings()
    yield from _tree()
    yield from _thousand()
    yield from _page()


def _figure(
    name: str, value: float, unit: str, target: float | None = None, *, at_most: bool = True
) -> Figure:
    return Figure(group=_GROUP, name=name, value=value, unit=unit, target=target, at_most=at_most)


def _tags(count: int) -> list[Item]:
    """Tags with bites out of them and ears on them, none like another; always the same."""
    rng = np.random.default_rng(3)
    items = []
    for n in range(count):
        w, h = rng.uniform(30, 45), rng.uniform(16, 24)
        plate = shapely.box(0, 0, w, h).buffer(2)
        bitten = (
            plate.difference(shapely.Point(w / 2, h).buffer(h * 0.6)),
            plate.difference(shapely.box(w * 0.3, -3, w * 0.7, h * 0.6)),
            plate.difference(shapely.Point(w, h / 2).buffer(h * 0.45)),
            plate.union(shapely.Point(w / 2, h).buffer(h * 0.4)),
        )[rng.integers(0, 4)]
        outline = shifted(bitten, -bitten.bounds[0], -bitten.bounds[1])
        items.append(Item(key=f"T{n}", shape=Shape(f"t{n}", outline)))
    return items


def _concave_tags() -> Iterator[Figure]:
    import spyrrow

    items = _tags(60)
    strip = Ground(width_mm=900, depth_mm=150, gap_mm=1.0)
    start = time.monotonic()
    ours = lay_on_strip(items, strip, seconds=7, seed=7)
    spent = time.monotonic() - start
    shapes = [
        spyrrow.Item(i.key, list(i.shape.outline.exterior.coords)[:-1], 1, [0, 90, 180, 270]) for i in items
    ]
    config = spyrrow.StripPackingConfig(
        early_termination=True, min_items_separation=1.0, total_computation_time=max(1, round(spent)), seed=7
    )
    # It keeps its gap to the strip's edges too, so it gets that much more.
    theirs = spyrrow.StripPackingInstance("tags", 152.0, shapes).solve(config).width - 2.0
    length = ours.length_mm if ours is not None else math.inf
    yield _figure(
        "60 concave tags on a strip of 150 mm, length beside the library's own", length / theirs, "×", 1.05
    )
    yield _figure("60 concave tags, time", spent, "s", 10.0)
    bound = sum(i.shape.outline.area for i in items) / 150.0
    yield _figure("60 concave tags, length beside the sum of their areas", length / bound, "×")
    bed = Ground(width_mm=220, depth_mm=220, margin_mm=5, gap_mm=1.0)
    laid = lay_out(items, bed, seconds=10, seed=7)
    yield _figure(
        "60 concave tags, first plate beside plain rows",
        len(laid.beds[0].places) / len(lay_in_rows(items, bed)),
        "×",
    )


def _rings() -> Iterator[Figure]:
    """300 rings of six sizes on the plates of a pattern printer."""
    chance = random.Random(4)
    sizes = [19.5, 20.1, 20.8, 21.4, 22.0, 22.7]
    shapes = {d: Shape(f"r{d}", shapely.Point(d / 2, d / 2).buffer(d / 2, 64)) for d in sizes}
    items = [Item(key=f"R{n}", shape=shapes[chance.choice(sizes)]) for n in range(300)]
    machine = shipped_machines()["PATTERNS-1"]
    ground = ground_of(machine)
    start = time.monotonic()
    laid = lay_out(items, ground)
    yield _figure("300 rings on plates, time", time.monotonic() - start, "s", 10.0)
    full = [len(bed.places) for bed in laid.beds[:-1]]
    width, depth = machine.room_mm
    mean = sum(item.shape.round_mm for item in items) / len(items)
    bound = hexagonal_count(mean, width, depth, gap_mm=machine.spacing_mm)
    share = sum(full) / len(full) / bound
    yield _figure(
        "300 rings, count beside hexagonal packing of their circles", share, "×", 0.9, at_most=False
    )


def _made(
    code: str, names: list[str], sizes: list[str]
) -> list[tuple[str, dict[str, bytes], dict[str, object]]]:
    product = _catalogue().find(code)
    made = []
    for n, name in enumerate(names):
        size = (
            parse_ring_size(sizes[n % len(sizes)], default=product.size_system)
            if product.size_system
            else None
        )
        piece = make_piece(Inputs(product=product, wording=name, size=size))
        if piece.stage == "ready" and piece.solid is not None:
            facts = {"volume_mm3": piece.solid.volume_mm3, "weight_g": piece.weight_g, **run_facts(piece)}
            made.append((name, piece_files(piece, title=name), facts))
    return made


def _catalogue() -> Catalogue:
    from kizami.cli import catalogue_at

    return catalogue_at(REPOSITORY / "demo" / "products.toml")


_NAMES = [
    "Ada",
    "Bruno",
    "Clara",
    "Dorian",
    "Elena",
    "Franz",
    "Greta",
    "Hugo",
    "Ines",
    "Jonas",
    "Karla",
    "Leo",
    "Marta",
    "Nils",
    "Olga",
    "Paul",
    "Rita",
    "Sven",
    "Tilda",
    "Vera",
]


def _tree() -> Iterator[Figure]:
    from dataclasses import replace

    rings = _made("CHOIR-RING", _NAMES, ["50", "54", "57"])
    machine = replace(shipped_machines()["FLASK-1"], bed_mm=(120.0, 120.0, 260.0))
    pieces = []
    for n in range(40):
        name, files, facts = rings[n % len(rings)]
        skin = body_of(files["stl"])
        pieces.append(
            OnTree(
                key=f"R{n}", shape_key=name, hull=skin.points[ConvexHull(skin.points).vertices],
                volume_mm3=skin.volume_mm3, feeds=tuple(Feed.from_table(row) for row in facts["feeds"]),
                load=partial(body_of, files["stl"]),
            )
        )  # fmt: skip
    start = time.monotonic()
    trees, _ = lay_on_trees(pieces, machine)
    bodies = [len(build_tree(tree, machine).decompose()) for tree in trees]
    yield _figure("a tree of 40 lettered rings, every joint proven, time", time.monotonic() - start, "s", 5.0)
    yield _figure("trees for 40 rings", len(trees), "trees", 1)
    yield _figure("bodies a tree", max(bodies), "bodies", 1)


def _write(number: int, pieces: list[tuple[str, dict[str, bytes], dict[str, object]]], folder: str) -> int:
    """Plates: laid, written, read back, zipped. Equal names share nothing, as of a thousand customers."""
    machine = shipped_machines()["FILAMENT-1"]
    items, bodies = [], {}
    for n, (name, files, facts) in enumerate(pieces):
        key = f"B{number}-{n}-1"
        lies = lay(body_of(files["stl"]))
        bodies[key] = (name, files, lies, facts)
        items.append(Item(key=key, shape=Shape(key, lies.outline, lies.height_mm)))
    done = 0
    for bed_number, bed in enumerate(lay_out(items, ground_of(machine)).beds):
        laid, outlines = [], []
        for place in bed.places:
            name, files, lies, facts = bodies[place.key]
            laid.append(
                LaidPiece(
                    key=place.key, wording=name, shape_key=place.key, turn=lies.turn, shift=lies.shift,
                    place=place, read=files.__getitem__, facts=facts_of(facts),
                )
            )  # fmt: skip
            outlines.append(drawn_outline(next(i.shape for i in items if i.key == place.key), place))
        out = Path(folder) / f"{number}-{bed_number}"
        out.mkdir()
        run = Run(code=f"B{number}", machine=machine, material="printed-filament", pieces=tuple(laid),
                  outlines=tuple(outlines))  # fmt: skip
        released = release(run, out)
        assert released.whole, released.differences
        with zipfile.ZipFile(out.with_suffix(".zip"), "w", zipfile.ZIP_DEFLATED, compresslevel=1) as package:
            for file in released.files:
                package.write(out / file, file)
        done += len(laid)
    return done


def _thousand() -> Iterator[Figure]:
    made = [*_made("CHOIR-RING", _NAMES, ["50", "54", "57"]), *_made("CREW-TAG", _NAMES, [""])]
    every = [made[n % len(made)] for n in range(1000)]
    parts = [(n, every[n * 125 : (n + 1) * 125]) for n in range(8)]
    with tempfile.TemporaryDirectory() as folder:
        start = time.monotonic()
        with multiprocessing.get_context("fork").Pool(2) as pool:
            done = sum(pool.starmap(_write, [(n, part, folder) for n, part in parts], chunksize=1))
        yield _figure("1,000 made pieces to released zips on 2 cores", time.monotonic() - start, "s", 60.0)
        yield _figure("pieces in them", done, "pieces", 1000, at_most=False)


def _page() -> Iterator[Figure]:
    """The page of a run of 300 pieces, whole, as the server answers it."""
    with shop_database():
        from django.contrib.auth.models import User
        from django.test import Client
        from django.urls import reverse

        from workshop.intake.taking import take_list
        from workshop.making.tasks import make_list
        from workshop.runs.gathering import ask_for_runs, gather_runs
        from workshop.runs.models import Run as RunRow
        from workshop.stations.models import Station

        Station.objects.add_shipped()
        laser = Station.objects.get(code="LASER-1")
        laser.table["bed_mm"] = [1300.0, 900.0, 10.0]
        laser.save()
        user = User.objects.get(username="maren")
        rows = "".join(f"Q{n},1,SORREL-LEAF,,{name},15,\n" for n, name in enumerate(_NAMES))
        taken = take_list(
            f"order,line,product,size,wording,quantity,due\n{rows}".encode(), name="b", user=user
        )
        make_list(taken.pk)
        gather_runs(ask_for_runs(user=user).pk)
        run = max(RunRow.objects.all(), key=lambda r: r.placements.count())
        client = Client(HTTP_HOST="127.0.0.1")
        client.force_login(user)
        address = reverse("runs:run", args=[run.code])
        client.get(address)
        times = []
        for _ in range(5):
            start = time.monotonic()
            assert client.get(address).status_code == 200
            times.append(time.monotonic() - start)
        yield _figure(
            f"page of a run of {run.placements.count()} pieces", sorted(times)[2] * 1000, "ms", 300.0
        )

"""The Catalogue."""

from __future__ import annotations

from django.urls import path

from workshop.catalogue import (
    beside_views,
    choice_views,
    drawn_views,
    picking_views,
    product_views,
    shape_views,
    share_views,
    standards_views,
    starting_views,
    trial_views,
    views,
)

app_name = "catalogue"

urlpatterns = [
    path("", product_views.products, name="products"),
    path("typefaces/", views.typefaces, name="typefaces"),
    path("typefaces/add/", views.add, name="add-typeface"),
    path("typefaces/<str:code>/retire/", views.retire, name="retire-typeface"),
    path("shapes/", shape_views.shapes, name="shapes"),
    path("shapes/add/", shape_views.add, name="add-shape"),
    path("shapes/<int:pk>/solid/", shape_views.solid, name="shape-solid"),
    path("new/", starting_views.new, name="new"),
    path("new/begin/", starting_views.start, name="start"),
    path("new/<str:kind>/", starting_views.start_sample, name="start-sample"),
    path("shapes/<int:pk>/begin/", starting_views.on_shape, name="start-on-shape"),
    path("limits/", standards_views.standards, name="standards"),
    path("limits/add/", standards_views.add, name="add-standard"),
    path("limits/<str:kind>/<str:code>/", standards_views.standard, name="standard"),
    path("products.toml", product_views.all_files, name="all-files"),
    path("keep-file/", product_views.keep_file, name="keep-file"),
    path("<str:code>/", product_views.product, name="product"),
    path("<str:code>/sample/", product_views.sample, name="sample"),
    path("<str:code>/wall/", trial_views.wall, name="wall"),
    path("<str:code>/samples/", trial_views.more_samples, name="more-samples"),
    path("<str:code>/section/", trial_views.section, name="section"),
    path("<str:code>/solid/", trial_views.solid, name="product-solid"),
    path("<str:code>/outline/", drawn_views.other_outline, name="other-outline"),
    path("<str:code>/lettering/", drawn_views.lettering_drawn, name="lettering-drawn"),
    path("<str:code>/picked/", picking_views.picked, name="picked"),
    path("<str:code>/grid.json", trial_views.grid, name="grid"),
    path("<str:code>/file/", product_views.file, name="file"),
    path("<str:code>/share/", share_views.share, name="share"),
    path("<str:code>/raised/", share_views.raised, name="raised"),
    path("<str:code>/choices/", choice_views.choices, name="choices"),
    path("<str:code>/beside/", beside_views.beside, name="beside"),
    path("<str:code>/beside/pairs/", beside_views.pairs, name="beside-pairs"),
    path("<str:code>/copy/", starting_views.copy, name="copy-product"),
    path("<str:code>/keep/", product_views.keep, name="keep-product"),
]

"""Lettering as closed solids: the plane divided along outlines and lines, and raised.

A surface that bends asks for corners where letters have none: along lines so close together that no chord
leaves the surface by more than the tolerance. A letter is therefore cut along those lines while it is still
flat, in unrolled mm, and laid on afterwards, every corner by itself. What comes of that is closed because
it was closed before: no corner is made twice, none lies beside a side, and the letters' corners are the
blank's own where they are set into its facets. The modules, in the order in which they are used:

`segments`
    Straight pieces of the plane, many at a time, as two arrays of ends.
`pencils`
    The lines. All that are parallel, or all that go through one point, make a *pencil*; each of its lines
    lies on a *carrier*, and carriers are numbered from right to left. Which carriers a segment crosses is
    then a matter of looking up its two ends in sorted keys; no segment is ever compared with every line.
`meeting`
    Segments and lines parted wherever a line meets something: a *graph* of nodes and edges that cross
    nowhere. A node is the same when its coordinates are the same to the last bit; nothing is rounded or
    snapped, so that what is done to a letter does not depend on its neighbours.
`parts`
    The faces of that graph (de Berg and others, Computational Geometry, chapter 2, by half-edges). Edges
    between nodes where nothing else meets go together as *runs*; walks keep left at each node; a contour
    that runs clockwise is a hole of the smallest part around it. How deep a part is (how many outlines go
    round it) is known wherever it touches an outline, and is the same across a line.
`triangulating`, `slopes`
    Triangles of the parts on their own corners: small convex contours many at a time, strips between two
    contours corner to corner, what is left by clipping ears, the best first: a triangle with its corners in
    a row would stand on edge once it is bent.
`chains`
    The outlines of a letter at every level, from outside inward: *chains* that lie one inside the other,
    with the creases between them where slopes meet. `cut_along` divides what they go round, `stood` gives
    every corner its height.
`relief`
    All of it together as one closed solid, for what stands alone or is cut by another body.

Index work follows three patterns, which have their names where they stand. *Ragged rows*: rows of unequal
length one after the other in one array, with `starts` of one more than there are rows. *Marks*: two
numbers, or two coordinates, in one, so that a single sort finds what is equal. *Both ways*: arrays of 2 n,
first all forward and then all backward, so that k and k + n are the two ways of one thing.

What counts as the same, as flat or as nothing is in one object, `tolerances.TOLERANCES`.
"""

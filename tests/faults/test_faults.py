"""A short fire; the long one, with a hundred kills, is the benchmark group `faults`."""

from __future__ import annotations

from tests.faults.afterwards import wrong_afterwards
from tests.faults.under_fire import open_shop_in, rest_s, under_fire


def test_killed_at_random_nothing_is_lost_or_done_twice() -> None:
    with open_shop_in(workers=1) as shop:
        told, fire = under_fire(shop, kills=6, pause_s=(2.0, 5.0), seed=20)
        rest_s(shop)
        assert fire.count == 6
        # People got something done between the kills, or nothing was tried here.
        assert told.taken
        assert wrong_afterwards(shop, told) == []
        # Whatever is lost or spoilt is told.
        told.tried.add("fire-0")
        told.taken.add("fire-0")
        spoilt = next((shop.folder / "state" / "files").glob("??/*"))
        spoilt.write_bytes(spoilt.read_bytes()[:-1])
        said = wrong_afterwards(shop, told)
        assert "the list fire-0, which was taken in, is gone" in said
        assert f"the file {spoilt.name[:12]} is not what it was" in said

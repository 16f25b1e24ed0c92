"""The stand-in's pages, over plain HTTP on loopback.

GET /orders?after=CURSOR   a page: {"orders": [...], "next": CURSOR or null}
POST /orders/ID/status     {"status": "..."}; answered with 204
GET /statuses              what was noted, for whoever wants to see it
POST /behave               {"mode": "well" | "slow" | "down" | "lying" | "twice" | "backwards"}
"""

from __future__ import annotations

import argparse
import json
import threading
import time
from collections.abc import Sequence
from dataclasses import dataclass, field
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any
from urllib.parse import parse_qs, unquote, urlsplit

__all__ = ["MODES", "Shop", "serve"]

MODES = ("well", "slow", "down", "lying", "twice", "backwards")
_PAGE_ORDERS = 20
_LARGEST_BODY = 64 * 1024


@dataclass(kw_only=True, slots=True)
class Shop:
    """The orders of the stand-in, and how it behaves.

    Attributes
    ----------
    orders : in the order of their last change; the cursor is a place in this list
    statuses : order -> what it was last said to be
    mode : one of `MODES`
    slow_s : how long an answer takes in the slow mode
    hurry : set it to have the answers that are being waited for given at once
    """

    orders: list[dict[str, Any]]
    statuses: dict[str, str] = field(default_factory=dict)
    mode: str = "well"
    slow_s: float = 8.0
    hurry: threading.Event = field(default_factory=threading.Event)

    def put(self, order: dict[str, Any]) -> None:
        """Add an order, or a later version of one."""
        self.orders.append(order)

    def page(self, after: int) -> dict[str, Any]:
        """A page of orders after a cursor, in the mode of now."""
        chosen = self.orders[after : after + _PAGE_ORDERS]
        end = after + len(chosen)
        if self.mode == "twice":
            chosen = [*chosen, *chosen]
        if self.mode == "backwards":
            chosen = chosen[::-1]
        if self.mode == "lying":
            chosen = [{"id": 7, "lines": "none"}, *chosen, {"id": "L-1", "version": 1, "lines": []}, 3]  # type: ignore[list-item]
        return {"orders": chosen, "next": str(end)}


def serve(shop: Shop, port: int) -> ThreadingHTTPServer:
    """A server for the shop on loopback; call `serve_forever` on it, `shutdown` to end it."""

    class Pages(BaseHTTPRequestHandler):
        """One request."""

        def do_GET(self) -> None:
            """Orders, or the statuses that were noted."""
            address = urlsplit(self.path)
            if address.path == "/statuses":
                self._answer(200, shop.statuses)
                return
            if address.path != "/orders":
                self._answer(404, {"error": "no such page"})
                return
            if shop.mode == "down":
                self._answer(503, {"error": "closed"})
                return
            if shop.mode == "slow":
                shop.hurry.wait(shop.slow_s)
            after = parse_qs(address.query).get("after", ["0"])[0]
            self._answer(200, shop.page(int(after) if after.isdecimal() else 0))

        def do_POST(self) -> None:
            """A status, or a mode."""
            length = int(self.headers.get("Content-Length") or 0)
            if length > _LARGEST_BODY:
                self._answer(413, {"error": "too large"})
                return
            try:
                body = json.loads(self.rfile.read(length))
            except ValueError:
                body = None
            parts = [unquote(part) for part in urlsplit(self.path).path.strip("/").split("/")]
            if parts == ["behave"] and isinstance(body, dict) and body.get("mode") in MODES:
                shop.mode = body["mode"]
            elif len(parts) == 3 and parts[0] == "orders" and parts[2] == "status" and isinstance(body, dict):
                if shop.mode == "down":
                    self._answer(503, {"error": "closed"})
                    return
                shop.statuses[parts[1]] = str(body.get("status", ""))[:40]
            else:
                self._answer(400, {"error": "not understood"})
                return
            self.send_response(204)
            self.end_headers()

        def _answer(self, code: int, content: object) -> None:
            data = json.dumps(content).encode()
            self.send_response(code)
            self.send_header("Content-Type", "application/json")
            self.send_header("Content-Length", str(len(data)))
            self.end_headers()
            self.wfile.write(data)

        def log_message(self, *_: object) -> None:
            """Quiet."""

    server = ThreadingHTTPServer(("127.0.0.1", port), Pages)
    server.daemon_threads = True
    return server


def demo_orders(number: int) -> dict[str, Any]:
    """A made-up order of the demo's web shop, always the same for the same number."""
    given = ("Maris", "Tobiah", "Ilse", "Corin", "Wynne", "Bastian", "Odette", "Rufus", "Senna", "Ewald")
    hives = ("Bramble", "Sainfoin", "Gorse", "Linden", "Phacelia")
    ring = {
        "line": "1",
        "product": "CHOIR-RING",
        "size": str(50 + number % 12),
        "wording": given[number % 10],
    }
    hive = {"line": "2", "product": "HIVE-PLATE", "wording": hives[number % 5], "quantity": 1 + number % 2}
    return {
        "id": f"W-{7000 + number}",
        "version": 1,
        "customer": "Web shop",
        "due": "2027-02-15",
        "lines": [ring, hive] if number % 3 == 0 else [ring],
    }


def main(argv: Sequence[str] | None = None) -> None:
    """Serve the demo's web shop: a few orders at once, then a new one now and then."""
    parser = argparse.ArgumentParser(prog="shopfeed", description="A stand-in for a web shop.")
    parser.add_argument("--port", type=int, default=8070)
    parser.add_argument("--every", type=float, default=90.0, help="seconds between new orders")
    parser.add_argument("--most", type=int, default=40, help="orders in all")
    args = parser.parse_args(argv)
    shop = Shop(orders=[demo_orders(n) for n in range(3)])
    server = serve(shop, args.port)

    def trade() -> None:
        for number in range(3, args.most):
            time.sleep(args.every)
            shop.put(demo_orders(number))

    threading.Thread(target=trade, daemon=True).start()
    server.serve_forever()


if __name__ == "__main__":
    main()

// The Bench by hand: lettering is taken hold of in the unrolled view, and findings light up where they are.

const SVG = "http://www.w3.org/2000/svg";
// How near, on the screen, something is before it settles there.
const SETTLES_PX = 7;
// While a hand moves, the server draws what is really there as often as it can, but no oftener.
const ASK_MS = 60;
// Keys that follow each other are one change.
const KEYS_REST_MS = 350;
const STEPS = { small: 0.05, large: 0.5, turn: 1, turnLarge: 15 };

const numbers = (text) => text.split(" ").map(Number);
const round = (value, by) => Math.round(value / by) * by;
const clean = (value, places) => String(Number(value.toFixed(places)));

function element(name, attributes, parent) {
  const made = document.createElementNS(SVG, name);
  for (const [key, value] of Object.entries(attributes)) made.setAttribute(key, value);
  parent?.append(made);
  return made;
}

class Hand {
  constructor(svg) {
    const data = svg.dataset;
    this.svg = svg;
    // Fields of a further area begin with its name.
    this.further = data.handArea ?? "";
    this.prefix = this.further ? `on.${this.further}.` : "";
    this.letters = svg.querySelector(".k-letters");
    this.top = Number(data.top);
    this.room = numbers(data.room);
    this.heights = numbers(data.heights);
    this.moves = "moves" in data;
    this.turns = "turns" in data;
    // What is drawn, and where the hand has it.
    this.drawn = { along: Number(data.along), across: Number(data.across), turned: Number(data.turned), height: Number(data.height), ink: numbers(data.ink) };
    this.now = { ...this.drawn };
    // The product's own place, from which moves are told.
    this.own = { along: this.drawn.along - this.field("along_mm"), across: this.drawn.across - this.field("across_mm"), turned: this.drawn.turned - this.field("turned_deg") };
    this.asked = 0;
    this.answered = 0;
    this.build();
  }

  input(name) {
    return document.getElementById(`set-${this.prefix}${name}`.split(/\s+/).join("-"));
  }

  field(name) {
    const input = this.input(name);
    return input && input.value.trim() ? Number.parseFloat(input.value.replace(",", ".")) || 0 : 0;
  }

  // Millimetres of the drawing for a point of the screen.
  get perPx() {
    const box = this.svg.getBoundingClientRect();
    return this.svg.viewBox.baseVal.width / box.width;
  }

  at(event) {
    const box = this.svg.getBoundingClientRect();
    const view = this.svg.viewBox.baseVal;
    return { u: view.x + (event.clientX - box.left) * this.perPx, v: this.top - (view.y + (event.clientY - box.top) * this.perPx) };
  }

  build() {
    const px = this.perPx;
    this.group = element("g", {
      class: "k-hand", tabindex: "0", role: "application", "aria-roledescription": "lettering to be placed",
      "aria-label": `The lettering${this.further ? ` on the ${this.further}` : ""}. Arrow keys move it by 0.05 mm, with Shift by 0.5 mm${this.turns ? "; [ and ] turn it by 1 degree, with Shift by 15" : ""}; + and − size it; 0 puts it back.`,
    }, this.svg);
    this.frame = element("rect", { class: "k-hand-frame" }, this.group);
    this.grip = element("rect", { class: "k-hand-grip", "data-does": "move" }, this.group);
    this.size = element("rect", { class: "k-hand-knob", "data-does": "size" }, this.group);
    this.knob = this.turns ? element("circle", { class: "k-hand-knob", "data-does": "turn" }, this.group) : null;
    this.stem = this.turns ? element("path", { class: "k-hand-stem" }, this.group) : null;
    this.gaps = element("g", { class: "k-hand-gaps", "aria-hidden": "true" }, this.group);
    this.lines = element("g", { class: "k-hand-lines", "aria-hidden": "true" }, this.group);
    this.text = 12 * px;
    this.place();
    this.group.addEventListener("pointerdown", (event) => this.take(event));
    this.group.addEventListener("pointermove", (event) => this.pull(event));
    this.group.addEventListener("pointerup", (event) => this.letGo(event));
    this.group.addEventListener("pointercancel", (event) => this.letGo(event));
    this.group.addEventListener("dblclick", () => this.putBack());
    this.group.addEventListener("keydown", (event) => this.key(event));
  }

  // The box round the letters where the hand has them.
  box() {
    const [low, bottom, high, top] = this.drawn.ink;
    const centre = { u: (low + high) / 2 + this.now.along - this.drawn.along, v: (bottom + top) / 2 + this.now.across - this.drawn.across };
    const grown = this.now.height / this.drawn.height;
    const half = { u: ((high - low) / 2) * grown, v: ((top - bottom) / 2) * grown };
    return { centre, half, low: centre.u - half.u, high: centre.u + half.u, bottom: centre.v - half.v, top: centre.v + half.v };
  }

  place() {
    const box = this.box();
    const px = this.perPx;
    const x = box.low, y = this.top - box.top, width = 2 * box.half.u, height = 2 * box.half.v;
    for (const rect of [this.frame, this.grip]) {
      const pad = 3 * px;
      rect.setAttribute("x", x - pad);
      rect.setAttribute("y", y - pad);
      rect.setAttribute("width", width + 2 * pad);
      rect.setAttribute("height", height + 2 * pad);
    }
    const side = 11 * px;
    this.size.setAttribute("x", x + width + 3 * px - side / 2);
    this.size.setAttribute("y", y + height + 3 * px - side / 2);
    this.size.setAttribute("width", side);
    this.size.setAttribute("height", side);
    if (this.knob) {
      const reach = 20 * px;
      this.knob.setAttribute("cx", x + width + reach);
      this.knob.setAttribute("cy", this.top - box.centre.v);
      this.knob.setAttribute("r", 6 * px);
      this.stem.setAttribute("d", `M${x + width + 3 * px} ${this.top - box.centre.v}h${reach - 9 * px}`);
    }
    // The letters as they are drawn, moved to where the hand has them.
    const [low, bottom, high, top] = this.drawn.ink;
    const from = { x: (low + high) / 2, y: this.top - (bottom + top) / 2 };
    const grown = this.now.height / this.drawn.height;
    const turned = -(this.now.turned - this.drawn.turned);
    const still = grown === 1 && !turned && this.now.along === this.drawn.along && this.now.across === this.drawn.across;
    this.letters.setAttribute("transform", still ? "" : `translate(${box.centre.u} ${this.top - box.centre.v}) rotate(${turned}) scale(${grown}) translate(${-from.x} ${-from.y})`);
  }

  // Distances to the room's edges, drawn where they are.
  measure(settled) {
    const box = this.box();
    const [low, bottom, high, top] = this.room;
    this.gaps.replaceChildren();
    this.lines.replaceChildren();
    const say = (x1, y1, x2, y2, gap, anchor) => {
      if (Math.abs(gap) < 0.005) return;
      element("path", { d: `M${x1} ${y1}L${x2} ${y2}`, class: gap < 0 ? "k-hand-over" : "" }, this.gaps);
      const label = element("text", { x: (x1 + x2) / 2, y: (y1 + y2) / 2 - 0.3 * this.text, "font-size": this.text, "text-anchor": anchor }, this.gaps);
      label.textContent = gap.toFixed(2);
    };
    const middle = this.top - box.centre.v;
    say(low, middle, box.low, middle, box.low - low, "middle");
    say(box.high, middle, high, middle, high - box.high, "middle");
    say(box.centre.u, this.top - top, box.centre.u, this.top - box.top, top - box.top, "start");
    say(box.centre.u, this.top - box.bottom, box.centre.u, this.top - bottom, box.bottom - bottom, "start");
    const view = this.svg.viewBox.baseVal;
    for (const line of settled) {
      const d = line.u !== undefined ? `M${line.u} ${view.y}V${view.y + view.height}` : `M${view.x} ${this.top - line.v}H${view.x + view.width}`;
      element("path", { d }, this.lines);
    }
    return `left ${(box.low - low).toFixed(2)}, right ${(high - box.high).toFixed(2)}, above ${(top - box.top).toFixed(2)}, below ${(box.bottom - bottom).toFixed(2)} mm clear`;
  }

  say(words) {
    const place = document.querySelector("[data-hand-said]");
    if (place) place.textContent = words;
  }

  take(event) {
    const does = event.target.dataset?.does;
    if (!does || event.button) return;
    if (does === "move" && !this.moves) return;
    event.preventDefault();
    this.group.focus({ preventScroll: true });
    this.group.setPointerCapture(event.pointerId);
    // A second tap soon after the first puts it back; touch screens send no double click.
    const now = performance.now();
    if (does === "move" && now - (this.tapped ?? -1e9) < 320) {
      this.tapped = undefined;
      this.putBack();
      return;
    }
    this.tapped = now;
    this.held = { does, from: this.at(event), was: { ...this.now }, moved: false };
    this.svg.classList.add("k-held");
  }

  pull(event) {
    if (!this.held) return;
    const at = this.at(event);
    const { does, from, was } = this.held;
    const far = Math.hypot(at.u - from.u, at.v - from.v);
    if (!this.held.moved && far < 3 * this.perPx) return;
    this.held.moved = true;
    this.tapped = undefined;
    const settled = [];
    const free = event.altKey;
    if (does === "move") {
      this.now.along = was.along + at.u - from.u;
      this.now.across = was.across + at.v - from.v;
      if (!free) this.settle(settled);
    } else if (does === "size") {
      const box = this.box();
      const before = Math.hypot(from.u - box.centre.u, from.v - box.centre.v) || 1;
      const height = (was.height * Math.hypot(at.u - box.centre.u, at.v - box.centre.v)) / before;
      this.now.height = Math.min(100, Math.max(0.5, round(height, 0.05)));
      if (!free) {
        const near = this.heights.find((one) => Math.abs(one - height) * (box.half.v / this.now.height) < SETTLES_PX * this.perPx * 0.5);
        if (near) this.now.height = near;
      }
    } else {
      const box = this.box();
      const angle = (point) => (Math.atan2(point.v - box.centre.v, point.u - box.centre.u) * 180) / Math.PI;
      let turned = was.turned + angle(at) - angle(from);
      turned = ((((turned + 180) % 360) + 360) % 360) - 180;
      const whole = round(turned, 15);
      this.now.turned = !free && Math.abs(turned - whole) < 3 ? whole : round(turned, 0.5);
    }
    this.place();
    this.say(this.measure(settled));
    this.ask();
  }

  // Softly on centre, on the edges of the room, and on equal gaps, which is the centre of the room.
  settle(settled) {
    const reach = SETTLES_PX * this.perPx;
    const [low, bottom, high, top] = this.room;
    const box = this.box();
    const across = [
      [this.own.along - this.now.along, this.svgMiddle("u")],
      [(low + high) / 2 - box.centre.u, (low + high) / 2], [low - box.low, low], [high - box.high, high],
    ];
    const up = [
      [this.own.across - this.now.across, this.svgMiddle("v")],
      [(bottom + top) / 2 - box.centre.v, (bottom + top) / 2], [bottom - box.bottom, bottom], [top - box.top, top],
    ];
    const nearest = (several) => several.filter(([by]) => Math.abs(by) < reach).sort((a, b) => Math.abs(a[0]) - Math.abs(b[0]))[0];
    const one = nearest(across), other = nearest(up);
    if (one) {
      this.now.along += one[0];
      settled.push({ u: one[1] });
    }
    if (other) {
      this.now.across += other[0];
      settled.push({ v: other[1] });
    }
  }

  // Where the product's own place is, on the rule.
  svgMiddle(axis) {
    const box = this.box();
    return axis === "u" ? box.centre.u + this.own.along - this.now.along : box.centre.v + this.own.across - this.now.across;
  }

  values() {
    const { along, across, turned } = this.own;
    const changed = { along_mm: clean(this.now.along - along, 2), across_mm: clean(this.now.across - across, 2), turned_deg: clean(this.now.turned - turned, 1) };
    for (const key of Object.keys(changed)) if (Number(changed[key]) === 0) changed[key] = "";
    if (this.sized || Math.abs(this.now.height - Number(this.svg.dataset.height)) > 0.001) {
      this.sized = true;
      changed.height_mm = clean(this.now.height, 2);
    }
    return changed;
  }

  // What would really be drawn there: the newest answer counts, an older one that comes late is dropped.
  async ask() {
    if (this.asking) {
      this.again = true;
      return;
    }
    this.asking = true;
    const number = ++this.asked;
    const form = document.getElementById("wording").form;
    const query = new URLSearchParams(new FormData(form));
    query.delete("csrfmiddlewaretoken");
    for (const [name, value] of Object.entries(this.values())) query.set(this.prefix + name, value);
    query.set("area", this.further);
    const then = { ...this.now };
    const begun = performance.now();
    try {
      const answer = await fetch(`${this.svg.dataset.hand}?${query}`, { credentials: "same-origin" });
      if (answer.ok && number > this.answered && this.svg.isConnected) {
        const drawn = await answer.json();
        this.answered = number;
        if (drawn.path && this.held) {
          this.letters.setAttribute("d", drawn.path);
          this.drawn = { along: then.along, across: then.across, turned: then.turned, height: then.height, ink: drawn.ink };
          // Letters are no larger than there is room for, whatever the hand asks.
          this.svg.classList.toggle("k-hand-lacks", !drawn.holds);
          this.svg.dataset.handTook = String(Math.round(performance.now() - begun));
          this.place();
          this.say(drawn.said);
        }
      }
    } catch {
      this.say("There is no connection to the shop; the lettering is put where you let it go once there is.");
    } finally {
      await new Promise((rest) => setTimeout(rest, Math.max(0, ASK_MS - (performance.now() - begun))));
      this.asking = false;
      if (this.again && this.held) {
        this.again = false;
        this.ask();
      }
    }
  }

  letGo(event) {
    if (!this.held) return;
    const { moved, was } = this.held;
    this.held = null;
    this.svg.classList.remove("k-held");
    if (event.type === "pointercancel") {
      this.now = was;
      this.place();
      return;
    }
    if (moved || this.waits) this.keep();
  }

  putBack() {
    if (!this.moves) return;
    this.held = null;
    this.now = { ...this.now, along: this.own.along, across: this.own.across, turned: this.own.turned };
    this.place();
    this.keep();
  }

  key(event) {
    const { key, shiftKey } = event;
    // On many keyboards brackets are typed with AltGr, which is no Alt.
    if ((event.altKey || event.ctrlKey || event.metaKey) && !event.getModifierState("AltGraph")) return;
    const step = shiftKey ? STEPS.large : STEPS.small;
    const moves = { ArrowLeft: ["along", -step], ArrowRight: ["along", step], ArrowUp: ["across", step], ArrowDown: ["across", -step] };
    const turn = { "[": STEPS.turn, "]": -STEPS.turn, "{": STEPS.turnLarge, "}": -STEPS.turnLarge }[key];
    if (moves[key] && this.moves) {
      const [name, by] = moves[key];
      this.now[name] = Number((this.now[name] + by).toFixed(3));
    } else if (turn && this.turns) {
      this.now.turned = Number((this.now.turned + turn).toFixed(1));
    } else if (key === "+" || key === "-" || key === "−") {
      const by = key === "+" ? 0.05 : -0.05;
      this.now.height = Number(Math.min(100, Math.max(0.5, round(this.now.height + by, 0.05))).toFixed(2));
    } else if (key === "0") {
      this.putBack();
      event.preventDefault();
      event.stopPropagation();
      return;
    } else if (key === "Escape") {
      document.getElementById("wording").focus();
      event.stopPropagation();
      return;
    } else return;
    event.preventDefault();
    event.stopPropagation();
    this.place();
    this.say(this.measure([]));
    clearTimeout(this.resting);
    this.resting = setTimeout(() => this.keep(), KEYS_REST_MS);
  }

  // Into the fields, as if it had been typed: the redraw, keeping and undoing are those of every other change.
  keep() {
    let last = null;
    for (const [name, value] of Object.entries(this.values())) {
      const input = this.input(name);
      if (!input) continue;
      if (input.value !== value) {
        input.value = value;
        input.closest("details")?.setAttribute("open", "");
        last = input;
      }
    }
    if (!last) {
      this.gaps.replaceChildren();
      this.lines.replaceChildren();
      if (!this.waits) return;
      last = this.input("height_mm");
    }
    this.waits = false;
    last.dispatchEvent(new Event("input", { bubbles: true }));
  }
}

// The area whose lettering had the cursor before a redraw; null where none had.
let handHadCursor = null;
let hands = [];

function giveHands() {
  hands = hands.filter((one) => one.svg.isConnected);
  const fresh = [...document.querySelectorAll("svg[data-hand]")].filter((svg) => !svg.querySelector(".k-hand")).map((svg) => new Hand(svg));
  hands.push(...fresh);
  // Only what was drawn anew has lost the cursor; whoever has moved on meanwhile keeps it.
  const again = fresh.find((one) => one.further === handHadCursor);
  if (fresh.length) handHadCursor = null;
  if (!again) return;
  const { group } = again;
  group.focus({ preventScroll: true });
  // What is swapped together with it may take the cursor once more before the page comes to rest.
  setTimeout(() => {
    if (group.isConnected && (!document.activeElement || document.activeElement === document.body)) group.focus({ preventScroll: true });
  }, 60);
}
document.addEventListener("DOMContentLoaded", giveHands);
document.addEventListener("htmx:afterSettle", giveHands);
// A redraw, whatever asked for it, leaves the cursor where it was.
document.addEventListener("htmx:beforeSwap", (event) => {
  // What comes while a hand holds the lettering waits until it is let go, and is asked for anew then.
  if (event.detail.target?.id !== "result") return;
  const holding = hands.find((one) => one.held);
  if (holding) {
    event.detail.shouldSwap = false;
    holding.waits = true;
    return;
  }
  handHadCursor = hands.find((one) => one.group === document.activeElement)?.further ?? null;
});

// Once more goes on to the next area that is lettered.
document.addEventListener("keydown", (event) => {
  const typing = event.target instanceof HTMLElement && event.target.matches("input, textarea, select");
  const wanted = event.altKey ? event.code === "KeyM" : event.key === "m" && !typing;
  if (!wanted || event.ctrlKey || event.metaKey || !hands.length) return;
  if (!event.altKey && localStorage.getItem("kizami-letters-off") === "1") return;
  event.preventDefault();
  const now = hands.findIndex((one) => one.group === document.activeElement);
  hands[(now + 1) % hands.length].group.focus();
});

// What a finding asks for leads to the field that does it.
document.addEventListener("click", (event) => {
  const asks = event.target instanceof Element ? event.target.closest("[data-leads]") : null;
  if (!asks) return;
  const { leads, area } = asks.dataset;
  const there = leads.replace(/^set-/, `set-on.${area}.`).split(/\s+/).join("-");
  const field = document.getElementById(there) ?? document.getElementById(leads) ?? document.getElementById("wording");
  field.closest("details")?.setAttribute("open", "");
  field.focus();
  if (field instanceof HTMLInputElement) field.select();
});

// A finding that is chosen lights up in its row, at its spot in the unrolled view, and on the turning piece.
function light(row) {
  document.querySelectorAll("[data-lit]").forEach((old) => old.removeAttribute("data-lit"));
  if (!row) return;
  row.dataset.lit = "";
  const { finding, spot, area } = row.dataset;
  const on = area ? `svg[data-unrolled="${CSS.escape(area)}"]` : "svg[data-unrolled]";
  document.querySelectorAll(`${on} g[data-code="${CSS.escape(finding)}"]`).forEach((mark) => { mark.dataset.lit = ""; });
  document.dispatchEvent(new CustomEvent("spot-chosen", { detail: { spot: spot ? numbers(spot) : null } }));
}

document.addEventListener("click", (event) => {
  if (!(event.target instanceof Element)) return;
  const row = event.target.closest("[data-finding]");
  if (row && !event.target.closest("a, button, form")) {
    row.focus();
    return;
  }
  const mark = event.target.closest("svg[data-unrolled] g[data-code]");
  if (!mark) return;
  const rows = [...document.querySelectorAll(`[data-finding="${CSS.escape(mark.dataset.code)}"]`)];
  const area = mark.closest("svg").dataset.unrolled;
  (rows.find((one) => one.dataset.area === area) ?? rows[0])?.focus();
});
document.addEventListener("focusin", (event) => {
  if (event.target instanceof Element && event.target.matches("[data-finding]")) light(event.target);
});
document.addEventListener("keydown", (event) => {
  const row = event.target instanceof Element && event.target.matches("[data-finding]") ? event.target : null;
  if (!row || (event.key !== "ArrowDown" && event.key !== "ArrowUp")) return;
  event.preventDefault();
  event.stopPropagation();
  const rows = [...document.querySelectorAll("[data-finding]")];
  rows[rows.indexOf(row) + (event.key === "ArrowDown" ? 1 : -1)]?.focus();
});

// The page asks by itself who else is here: a session that has ended must not take what is typed away for that.
// Whatever the person does next leads to sign-in and back.
document.addEventListener("htmx:beforeOnLoad", (event) => {
  const { requestConfig, xhr } = event.detail;
  if (requestConfig?.path?.includes("/here/") && xhr.getResponseHeader("HX-Redirect")) event.preventDefault();
});

// What every page needs beyond htmx: keys, and the order book's rows by keyboard.
import htmx from "htmx.org";
import "./pressed.js";

htmx.config.includeIndicatorStyles = false;
htmx.config.allowEval = false;
htmx.config.selfRequestsOnly = true;
htmx.config.historyCacheSize = 0;
window.htmx = htmx;

const isTyping = (target) => target instanceof HTMLElement && target.matches("input, textarea, select");

function moveAmongRows(step) {
  const rows = [...document.querySelectorAll("[data-row] a[data-open]")];
  if (!rows.length) return;
  const place = rows.indexOf(document.activeElement);
  const next = rows[Math.min(rows.length - 1, Math.max(0, place + step))];
  next.focus();
  next.scrollIntoView({ block: "nearest" });
}

// A letter alone is a key while nobody types; with Alt it is one everywhere, in a field too.
const LETTERS_OFF = "kizami-letters-off";
const lettersAreOff = () => localStorage.getItem(LETTERS_OFF) === "1";

function pressed(event) {
  if (!event.altKey) return event.key;
  // With Alt some keyboards give another sign for the letter; where it lies tells which it is.
  const place = /^(?:Key|Digit)([A-Z0-9])$/.exec(event.code);
  return place ? place[1].toLowerCase() : event.key;
}

function press(control) {
  if (control.matches("input, textarea")) control.focus();
  else control.click();
}

const MEANT = { input: "Type to filter" };
const WITHOUT_CONTROL = [
  ["[data-row]", "↑ ↓", "Go from line to line"],
  ["[data-choose]", "Space", "Choose the line under the cursor"],
  ["[data-choose]", "a", "Choose all lines shown, or none"],
  ["[data-enter-submits]", "Enter", "Keep"],
  ["[data-enter-submits]", "Shift Enter", "Begin a new line in the wording"],
  ["canvas[data-turning]", "← → ↑ ↓", "Turn the piece, when it has the cursor"],
];

// Kept as a cookie, so that the next page comes in its light and does not flash.
function lightAs(value) {
  const root = document.documentElement;
  if (value) root.dataset.light = value;
  else delete root.dataset.light;
  document.cookie = `kizami_light=${value}; path=/; max-age=${value ? 31536000 : 0}; samesite=lax`;
}

function showKeys() {
  document.querySelector("dialog[data-keys]")?.remove();
  const dialog = document.createElement("dialog");
  dialog.dataset.keys = "";
  dialog.className = "bg-plate border border-hair p-6 m-auto";
  const title = document.createElement("h2");
  title.className = "text-xl mb-2";
  title.textContent = "Keys on this page";
  const list = document.createElement("dl");
  list.className = "grid grid-cols-[auto_1fr] gap-x-4 gap-y-1 mb-3";
  const add = (key, said) => {
    const term = document.createElement("dt");
    const mark = document.createElement("kbd");
    mark.textContent = key;
    term.append(mark);
    const meaning = document.createElement("dd");
    meaning.textContent = said;
    list.append(term, meaning);
  };
  for (const [selector, key, said] of WITHOUT_CONTROL) if (document.querySelector(selector)) add(key, said);
  for (const control of document.querySelectorAll("[data-key]")) {
    const copy = control.cloneNode(true);
    copy.querySelectorAll("kbd").forEach((mark) => mark.remove());
    const said = copy.textContent.trim().replace(/\s+/g, " ") || MEANT[control.localName] || control.title;
    add(control.dataset.key, said);
  }
  add("?", "Show this");
  const how = document.createElement("p");
  how.className = "text-slate text-sm mb-3";
  how.textContent = "A letter alone works while the cursor is in no field; with Alt it works everywhere.";
  const label = document.createElement("label");
  label.className = "flex gap-2 items-center mb-3";
  const box = document.createElement("input");
  box.type = "checkbox";
  box.checked = !lettersAreOff();
  box.addEventListener("change", () => localStorage.setItem(LETTERS_OFF, box.checked ? "0" : "1"));
  label.append(box, "Letters without Alt are keys, in this browser");
  const light = document.createElement("label");
  light.className = "flex gap-2 items-center mb-3";
  const choice = document.createElement("select");
  choice.className = "field w-auto";
  for (const [value, said] of [["", "as this machine is set"], ["light", "light"], ["dark", "dark"]]) {
    choice.append(new Option(said, value, false, value === (document.documentElement.dataset.light ?? "")));
  }
  choice.addEventListener("change", () => lightAs(choice.value));
  light.append("This browser’s pages are", choice);
  const form = document.createElement("form");
  form.method = "dialog";
  const close = document.createElement("button");
  close.className = "act-quiet";
  close.textContent = "Close";
  form.append(close);
  dialog.append(title, list, how, label, light, form);
  dialog.addEventListener("close", () => dialog.remove());
  document.body.append(dialog);
  dialog.showModal();
}
document.addEventListener("click", (event) => {
  if (event.target instanceof Element && event.target.closest("[data-show-keys]")) showKeys();
});

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.isComposing || document.querySelector("dialog[open]")) return;
  if (event.altKey) {
    const control = document.querySelector(`[data-key="${CSS.escape(pressed(event))}"]`);
    if (control) {
      event.preventDefault();
      press(control);
    }
    return;
  }
  if (event.key === "Enter" && !event.shiftKey && event.target instanceof Element && event.target.matches("[data-enter-submits]")) {
    event.preventDefault();
    if (!event.target.readOnly) event.target.form.requestSubmit();
    return;
  }
  if (event.key === "Escape" && isTyping(event.target)) {
    event.target.blur();
    return;
  }
  const inFilter = event.target instanceof HTMLElement && event.target.matches("[data-filter]");
  if (event.key === "ArrowDown" || event.key === "ArrowUp") {
    if (isTyping(event.target) && !inFilter) return;
    if (!document.querySelector("[data-row]")) return;
    event.preventDefault();
    moveAmongRows(event.key === "ArrowDown" ? 1 : -1);
    return;
  }
  const row = event.target instanceof Element ? event.target.closest("[data-row]") : null;
  if (event.key === " " && row && event.target.matches("[data-open]")) {
    event.preventDefault();
    row.querySelector("[data-choose]")?.click();
    return;
  }
  if (isTyping(event.target) && event.target.type !== "checkbox") return;
  if (event.key === "?") {
    event.preventDefault();
    showKeys();
    return;
  }
  if (lettersAreOff()) return;
  if (event.key === "a" && document.querySelector("[data-choose]")) {
    event.preventDefault();
    const boxes = [...document.querySelectorAll("[data-choose]")];
    const all = boxes.every((box) => box.checked);
    for (const box of boxes) box.checked = !all;
    countChosen();
    return;
  }
  const control = document.querySelector(`[data-key="${CSS.escape(event.key)}"]`);
  if (control) {
    event.preventDefault();
    press(control);
  }
});

// Puts a stored wording back into the field; the redraw follows as if it had been typed.
document.addEventListener("click", (event) => {
  const button = event.target instanceof Element ? event.target.closest("[data-put-back]") : null;
  if (!button) return;
  const field = document.getElementById(button.dataset.field);
  field.value = button.dataset.putBack;
  field.dispatchEvent(new Event("input", { bubbles: true }));
  field.focus();
});

// The browser's own autofocus gives way to whatever came first, and does not know of swaps.
function focusFirst() {
  const field = document.querySelector("[autofocus]");
  const nothingHasIt = !document.activeElement || document.activeElement === document.body;
  if (field && nothingHasIt) field.focus();
}
document.addEventListener("DOMContentLoaded", focusFirst);
// Once more when all is drawn: on a busy machine the first may come before the field can take it.
window.addEventListener("pageshow", focusFirst);
document.addEventListener("htmx:afterSettle", (event) => {
  if (event.detail.target?.id === "main") focusFirst();
});

// The bar for many lines shows itself once a line is chosen.
function countChosen() {
  const bar = document.querySelector("[data-many]");
  if (!bar) return;
  const count = document.querySelectorAll("[data-choose]:checked").length;
  bar.hidden = count === 0;
  bar.querySelector("[data-many-count]").textContent = String(count);
}
document.addEventListener("change", (event) => {
  if (event.target instanceof Element && event.target.matches("[data-choose]")) countChosen();
});
document.addEventListener("htmx:afterSettle", countChosen);

// While a list is made the rail asks for itself, of the view that the address says now, and the rows on the
// screen ask whether they are still true. Only what stands otherwise is put in place: what is typed, ticked
// or has the cursor stays.
const RAIL_EVERY_MS = 1000;
let railIsAsking = false;
setInterval(async () => {
  const rail = document.querySelector("#rail[data-asks]");
  if (!rail || railIsAsking || document.hidden) return;
  railIsAsking = true;
  const query = new URLSearchParams(location.search);
  query.set("mark", rail.dataset.mark);
  try {
    await htmx.ajax("GET", `${rail.dataset.asks}?${query}`, { target: "#rail", swap: "outerHTML" });
  } finally {
    railIsAsking = false;
  }
}, RAIL_EVERY_MS);
document.addEventListener("lines-changed", () => {
  const lines = document.querySelector("[data-refresh]");
  const rows = [...document.querySelectorAll("[data-row]")].map((row) => row.dataset.row);
  if (lines && rows.length) htmx.ajax("POST", lines.dataset.refresh, { target: "#lines", swap: "none", values: { row: rows } });
});
document.addEventListener("htmx:oobBeforeSwap", (event) => {
  const before = event.detail.target?.querySelector?.("[data-choose]");
  const after = event.detail.fragment?.querySelector?.("[data-choose]");
  if (before && after) after.checked = before.checked;
});

// Held lines ask for themselves while cures are looked for: what was ticked or not stays so.
let ticked = null;
document.addEventListener("htmx:beforeSwap", (event) => {
  if (event.detail.target?.id !== "causes") return;
  ticked = new Map([...event.detail.target.querySelectorAll("input[name=line]")].map((box) => [box.value, box.checked]));
});
document.addEventListener("htmx:afterSwap", () => {
  if (!ticked) return;
  for (const box of document.querySelectorAll("#causes input[name=line]")) {
    if (ticked.has(box.value)) box.checked = ticked.get(box.value);
  }
  ticked = null;
});

// A part that could not be had is said in its place: what stood there before is true no more.
function sayInstead(event, said) {
  const target = event.detail.target;
  // Where the whole page was to change, it stays, and a line above it says why.
  const place = !target || target.id === "main" || target === document.body ? null : target;
  const told = document.createElement("p");
  told.setAttribute("role", "alert");
  told.dataset.instead = "";
  told.className = "bg-vermilion-wash border-l-4 border-vermilion px-3 py-1";
  told.textContent = said;
  document.querySelectorAll("#main > [data-instead]").forEach((old) => old.remove());
  if (place) place.replaceChildren(told);
  else document.getElementById("main")?.prepend(told);
}
const REFUSED = {
  403: "Your place in the shop does not include this. What stood here is no longer shown.",
  404: "It is gone: somebody may have changed or dropped it. Load the page again.",
  413: "That is more than can be sent at once. Nothing was kept.",
};
document.addEventListener("htmx:responseError", (event) => {
  const status = event.detail.xhr.status;
  sayInstead(event, REFUSED[status] ?? "It could not be worked out: something went wrong, and is on record. What stood here is no longer shown; change a letter or load the page again.");
});
document.addEventListener("htmx:sendError", (event) => {
  sayInstead(event, "There is no connection to the shop. What stood here is no longer shown; what you typed is still in its field.");
});
document.addEventListener("htmx:timeout", (event) => {
  sayInstead(event, "The answer took too long. What stood here is no longer shown; change a letter to ask again.");
});

// A word that is offered fills in its field, as if it were typed.
document.addEventListener("click", (event) => {
  const offered = event.target instanceof Element ? event.target.closest("[data-fill]") : null;
  const field = offered && document.getElementById(offered.dataset.fill);
  if (!field) return;
  field.value = offered.value;
  field.dispatchEvent(new Event("input", { bubbles: true }));
});

// A field that belongs to a choice makes it.
for (const kind of ["input", "change"]) {
  document.addEventListener(kind, (event) => {
    const choice = event.target instanceof HTMLElement ? document.getElementById(event.target.dataset.chooses ?? "") : null;
    if (choice && event.target.value) choice.checked = true;
  });
}

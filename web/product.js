// A product's page: measures are typed where they stand in the drawings, and proposals fill in fields.

const form = () => document.getElementById("product-form");

// The fields stay the same elements, so that typing is never broken by a redraw; only their places move.
function place() {
  const box = document.querySelector("[data-measured]");
  if (!box) return;
  const frame = box.getBoundingClientRect();
  const places = new Map();
  for (const spot of box.querySelectorAll("[data-place]")) {
    places.set(spot.closest("svg").dataset.prefix + spot.dataset.place, spot);
  }
  let rest = 0;
  for (const label of box.querySelectorAll("[data-measure]")) {
    const spot = places.get(label.dataset.measure);
    if (!spot) {
      label.removeAttribute("data-placed");
      label.style.left = label.style.top = "";
      rest += 1;
      continue;
    }
    const at = spot.getBoundingClientRect();
    label.dataset.placed = "";
    label.style.left = `${at.left - frame.left + (at.width - label.offsetWidth) / 2}px`;
    label.style.top = `${at.top - frame.top + (at.height - label.offsetHeight) / 2}px`;
  }
  const said = box.querySelector("[data-rest]");
  if (said) said.hidden = rest === 0;
}

function fill(name, value) {
  const found = form()?.elements.namedItem(name);
  if (!found) return null;
  const controls = found instanceof RadioNodeList ? [...found] : [found];
  if (Array.isArray(value)) {
    const selects = controls.filter((one) => one.localName === "select");
    selects.forEach((one, place) => (one.value = value[place] ?? ""));
    for (const one of controls) if (one.type === "checkbox") one.checked = value.includes(one.value);
  } else if (typeof value === "boolean") {
    controls[0].value = value ? "yes" : "no";
  } else {
    controls[0].value = value;
  }
  return controls[0];
}

function changed(control) {
  openPart(control);
  control?.dispatchEvent(new Event("input", { bubbles: true }));
}

document.addEventListener("click", (event) => {
  const target = event.target instanceof Element ? event.target : null;
  const choice = target?.closest("[data-choice]");
  if (choice) changed(fill(choice.dataset.choice, choice.dataset.value));
  const sets = target?.closest("[data-sets]");
  if (sets) {
    const filled = Object.entries(JSON.parse(sets.dataset.sets)).map(([name, value]) => fill(name, value));
    changed(filled.find(Boolean));
  }
  if (target?.closest("[data-close-choices]")) document.getElementById("choices").replaceChildren();
});

// A side that was pointed at: what may be done with it comes as words and buttons.
let pointedAt = {};
document.addEventListener("side-picked", ({ detail }) => {
  pointedAt = detail;
  document.getElementById("picked")?.dispatchEvent(new Event("pick"));
});
document.addEventListener("htmx:configRequest", (event) => {
  if (event.detail.elt.id !== "picked") return;
  for (const [name, value] of Object.entries(pointedAt)) event.detail.formData.set(name, value);
});
document.addEventListener("click", (event) => {
  const leads = event.target instanceof Element ? event.target.closest("[data-leads-to]") : null;
  const field = leads && document.getElementById(leads.dataset.leadsTo);
  if (!field) return;
  event.preventDefault();
  openPart(field);
  field.focus();
});

// Only what differs from the product as it is kept is sent, so that addresses stay short.
function isTouched(control) {
  if (control.localName === "select") {
    const usual = [...control.options].findIndex((option) => option.defaultSelected);
    return control.selectedIndex !== Math.max(usual, 0);
  }
  if (control.type === "checkbox") return control.checked !== control.defaultChecked;
  return control.value !== control.defaultValue;
}
document.addEventListener("htmx:configRequest", (event) => {
  const { formData, verb } = event.detail;
  if (verb !== "get" || !form()) return;
  const controls = grouped(form().elements);
  for (const name of new Set(formData.keys())) {
    const named = controls.get(name);
    if (!named || document.querySelector(`[data-on-trial="${CSS.escape(name)}"]`)) continue;
    if (!named.some((one) => "sent" in one.dataset || isTouched(one))) formData.delete(name);
  }
});
function grouped(elements) {
  const found = new Map();
  for (const one of elements) found.set(one.name, [...(found.get(one.name) ?? []), one]);
  return found;
}

// What was refused is said at the top and marked where it was typed.
function mark() {
  for (const one of document.querySelectorAll("[aria-invalid]")) one.removeAttribute("aria-invalid");
  const at = document.querySelector("[data-refused-at]")?.dataset.refusedAt;
  const control = at ? document.getElementById(`f-${at}`) : null;
  control?.setAttribute("aria-invalid", "true");
  openPart(control);
}

// What somebody opened or closed stays so where fields come anew, whatever else arrives meanwhile.
const parts = new Map();
function openPart(control) {
  const part = control?.closest("[data-part]");
  if (!part) return;
  part.open = true;
  parts.set(part.dataset.part, true);
}
document.addEventListener("click", (event) => {
  const part = event.target instanceof Element ? event.target.closest("summary")?.parentElement : null;
  if (part?.dataset.part) parts.set(part.dataset.part, !part.open);
});

// The field that has the cursor keeps it; between a swap and its end another may take its place.
let typedIn = "", isSwapping = false;
document.addEventListener("htmx:beforeSwap", () => {
  const id = document.activeElement?.id ?? "";
  if (id || !isSwapping) typedIn = id;
  isSwapping = true;
});

function settled() {
  for (const part of document.querySelectorAll("[data-part]")) part.open = parts.get(part.dataset.part) ?? part.open;
  if (typedIn && document.activeElement?.id !== typedIn) document.getElementById(typedIn)?.focus({ preventScroll: true });
  [typedIn, isSwapping] = ["", false];
  place();
  mark();
}
document.addEventListener("htmx:afterSettle", settled);
const box = document.querySelector("[data-measured]");
if (box) new ResizeObserver(place).observe(box);
document.fonts?.ready.then(place);
place();

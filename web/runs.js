// The drawn run: pieces are chosen, dragged and moved by keys; the server proves every place and answers with
// the run as it stands then.
const bed = () => document.getElementById("bed");
const form = () => document.getElementById("run");
const chosen = new Set();

function choose(piece, on) {
  if (on) chosen.add(piece);
  else chosen.delete(piece);
  showChosen();
}

function showChosen() {
  const run = form();
  if (!run) return;
  for (const piece of [...chosen]) if (!run.querySelector(`[data-piece="${CSS.escape(piece)}"].k-piece`)) chosen.delete(piece);
  for (const drawn of run.querySelectorAll(".k-piece")) {
    const on = chosen.has(drawn.dataset.piece);
    drawn.classList.toggle("k-chosen", on);
    drawn.setAttribute("aria-checked", String(on));
  }
  for (const box of run.querySelectorAll("[data-choose-piece]")) box.checked = chosen.has(box.value);
  for (const count of run.querySelectorAll("[data-chosen-count]")) count.textContent = String(chosen.size);
}

let focusedPiece = "";
async function move(pieces, { right = 0, up = 0, turn = 0 }) {
  const drawing = bed();
  if (!drawing?.dataset.moves || !pieces.length) return;
  focusedPiece = document.activeElement?.dataset?.piece ?? "";
  const values = {
    edition: form().dataset.edition, piece: pieces, right: right.toFixed(4), up: up.toFixed(4), turn: String(turn),
    look: form().querySelector("[name=look]")?.value ?? "",
    csrfmiddlewaretoken: form().querySelector("[name=csrfmiddlewaretoken]").value,
  };
  await window.htmx.ajax("POST", drawing.dataset.moves, { target: "#run", swap: "outerHTML", values });
}
document.addEventListener("htmx:afterSettle", () => {
  showChosen();
  if (!focusedPiece) return;
  bed()?.querySelector(`[data-piece="${CSS.escape(focusedPiece)}"]`)?.focus();
  focusedPiece = "";
});

// Millimetres of the bed for a place on the screen, y up.
function millimetres(event) {
  const drawing = bed();
  const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(drawing.getScreenCTM().inverse());
  return { x: at.x, y: Number(drawing.dataset.depth) - at.y };
}

let drag = null;
document.addEventListener("pointerdown", (event) => {
  const piece = event.target instanceof Element ? event.target.closest(".k-piece") : null;
  if (!piece || event.button !== 0) return;
  drag = { piece, from: millimetres(event), by: { x: 0, y: 0 }, moved: false };
  piece.setPointerCapture?.(event.pointerId);
});
document.addEventListener("pointermove", (event) => {
  if (!drag || !bed()?.dataset.moves) return;
  const at = millimetres(event);
  drag.by = { x: at.x - drag.from.x, y: at.y - drag.from.y };
  if (!drag.moved && Math.hypot(drag.by.x, drag.by.y) < 0.7) return;
  drag.moved = true;
  for (const drawn of dragged()) drawn.setAttribute("transform", `translate(${drag.by.x} ${-drag.by.y})`);
});
const dragged = () => {
  const piece = drag.piece.dataset.piece;
  const all = chosen.has(piece) ? [...chosen] : [piece];
  return all.map((key) => bed().querySelector(`[data-piece="${CSS.escape(key)}"]`)).filter(Boolean);
};
document.addEventListener("pointerup", () => {
  if (!drag) return;
  const { piece, moved, by } = drag;
  if (moved) move(dragged().map((drawn) => drawn.dataset.piece), { right: by.x, up: by.y });
  else choose(piece.dataset.piece, !chosen.has(piece.dataset.piece));
  drag = null;
});
document.addEventListener("pointercancel", () => {
  if (drag) for (const drawn of dragged()) drawn.removeAttribute("transform");
  drag = null;
});

document.addEventListener("change", (event) => {
  if (event.target instanceof Element && event.target.matches("[data-choose-piece]")) choose(event.target.value, event.target.checked);
});

const STEPS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };
document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  const piece = event.target instanceof Element ? event.target.closest(".k-piece") : null;
  if (!piece) return;
  const key = piece.dataset.piece;
  if (event.key === " " || event.key === "Enter") {
    event.preventDefault();
    choose(key, !chosen.has(key));
    return;
  }
  const those = chosen.size ? [...chosen] : [key];
  const step = STEPS[event.key];
  if (step) {
    event.preventDefault();
    const far = event.shiftKey ? 10 : 1;
    move(those, { right: far * step[0], up: far * step[1] });
  } else if (event.key === "e" || event.key === "E") {
    event.preventDefault();
    const by = Number(bed().dataset.turns || 0);
    if (by) move(those, { turn: event.shiftKey ? -by : by });
  }
}, true);

document.addEventListener("DOMContentLoaded", showChosen);

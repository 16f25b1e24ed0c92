// What is pressed stays under the pointer until it is let go. A part of the page that asks for itself would
// else put another button in its place between the press and the letting go, and the press would be lost.
import htmx from "htmx.org";

let pressed = null;
/** What came meanwhile, by the part that it replaces. */
const waiting = new Map();

const asksByItself = (detail) => detail.requestConfig && !detail.requestConfig.triggeringEvent;

function takeIn(detail) {
  const { target } = detail;
  if (!target.isConnected || !htmx.trigger(target, "htmx:beforeSwap", detail) || !detail.shouldSwap) return;
  const asker = detail.requestConfig.elt;
  const said = (name) => asker.closest(`[${name}]`)?.getAttribute(name);
  const swapStyle = (detail.swapOverride ?? said("hx-swap") ?? "innerHTML").split(" ")[0];
  htmx.swap(
    target,
    detail.serverResponse,
    { swapStyle, swapDelay: 0, settleDelay: 20 },
    { select: said("hx-select"), selectOOB: said("hx-select-oob"), contextElement: asker, eventInfo: detail },
  );
}

document.addEventListener("pointerdown", (event) => {
  pressed = event.target instanceof Element ? event.target.closest("button, a, summary, label") : null;
});
for (const kind of ["pointerup", "pointercancel"]) {
  document.addEventListener(kind, () => {
    pressed = null;
    // The click comes right after it, and what that asks for goes before what came meanwhile.
    setTimeout(() => {
      const all = [...waiting.values()];
      waiting.clear();
      all.forEach(takeIn);
    });
  });
}
document.addEventListener("htmx:beforeRequest", (event) => {
  if (event.detail.requestConfig.triggeringEvent) waiting.delete(event.detail.target);
});
document.addEventListener("htmx:beforeSwap", (event) => {
  const { target, shouldSwap } = event.detail;
  if (!shouldSwap || !pressed || target === pressed || !target.contains(pressed) || !asksByItself(event.detail)) return;
  event.detail.shouldSwap = false;
  // Whoever keeps something across a swap does so when it is taken in.
  event.stopImmediatePropagation();
  waiting.set(target, { ...event.detail, shouldSwap: true });
});

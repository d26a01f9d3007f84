// Things are moved by pointing and by the arrow keys; what a hand lets go of is sent, kept and checked on the server.
const setup = () => document.getElementById("setup");
const nudge = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };
const typing = (element) => element.matches("textarea, select, input");
let held = null;
let focusNext = "";

function millimetres(svg, event) {
  const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
  return [at.x, at.y];
}

function send(form, values) {
  for (const [name, value] of Object.entries(values)) form.elements[name].value = value;
  focusNext = values.key;
  form.requestSubmit();
}

function middle(thing) {
  const field = (name) => document.querySelector(`#setup .setup-place input[name=${name}]`);
  if (setup().dataset.chosen === thing.dataset.thing && field("x_mm")) {
    return [Number(field("x_mm").defaultValue), Number(field("y_mm").defaultValue)];
  }
  const box = thing.querySelector(".setup-outline").getBBox();
  const chuck = thing.ownerSVGElement.querySelector(".setup-chuck").getBBox();
  return [box.x + box.width / 2, chuck.height - (box.y + box.height / 2)];
}

function choose(key) {
  const url = new URL(location.href);
  url.searchParams.set("chosen", key);
  url.searchParams.delete("ways");
  focusNext = key;
  htmx.ajax("GET", url.pathname + url.search, { target: "#setup", swap: "outerHTML" });
}

document.addEventListener("pointerdown", (event) => {
  const thing = event.target.closest("[data-thing]");
  if (!thing || event.button !== 0) return;
  const svg = thing.ownerSVGElement;
  held = { thing, svg, from: millimetres(svg, event), by: [0, 0], at: middle(thing) };
  svg.setPointerCapture(event.pointerId);
  event.preventDefault();
});

document.addEventListener("pointermove", (event) => {
  if (!held) return;
  const [x, y] = millimetres(held.svg, event);
  held.by = [x - held.from[0], y - held.from[1]];
  for (const one of [held.thing, held.thing.nextElementSibling]) {
    one.setAttribute("transform", `translate(${held.by[0]} ${held.by[1]})`);
  }
});

document.addEventListener("pointerup", () => {
  if (!held) return;
  const { thing, by, at } = held;
  held = null;
  const form = document.getElementById("setup-move");
  if (Math.hypot(...by) < 1.5 || !form) {
    thing.removeAttribute("transform");
    thing.nextElementSibling.removeAttribute("transform");
    choose(thing.dataset.thing);
    return;
  }
  send(form, { key: thing.dataset.thing, x_mm: (at[0] + by[0]).toFixed(3), y_mm: (at[1] - by[1]).toFixed(3) });
});

document.addEventListener("pointercancel", () => {
  held?.thing.removeAttribute("transform");
  held?.thing.nextElementSibling.removeAttribute("transform");
  held = null;
});

function step(back) {
  const things = [...document.querySelectorAll("#setup [data-thing]")].sort((one, other) =>
    one.dataset.thing.localeCompare(other.dataset.thing, "en", { numeric: true }),
  );
  if (!things.length) return;
  const now = things.findIndex((one) => one.dataset.thing === setup().dataset.chosen);
  choose(things[(now + (back ? -1 : 1) + things.length) % things.length].dataset.thing);
}

document.addEventListener("keydown", (event) => {
  if (typing(event.target) || event.ctrlKey || event.altKey || event.metaKey || !setup()) return;
  const focused = event.target.closest?.("[data-thing]");
  if (focused && (event.key === "Enter" || event.key === " ")) {
    event.preventDefault();
    choose(focused.dataset.thing);
  } else if (event.key.toLowerCase() === "n") {
    step(event.shiftKey);
  } else if (event.key in nudge && setup().dataset.chosen && document.getElementById("setup-nudge")) {
    event.preventDefault();
    const far = event.shiftKey ? 10 : 1;
    const [x, y] = nudge[event.key];
    send(document.getElementById("setup-nudge"), { key: setup().dataset.chosen, by_x: x * far, by_y: y * far });
  }
});

document.addEventListener("htmx:beforeSwap", (event) => {
  if (event.detail.xhr.status === 422 || event.detail.xhr.status === 409) {
    event.detail.shouldSwap = true;
    event.detail.isError = false;
  }
});

document.addEventListener("htmx:afterSwap", () => {
  const thing = focusNext && document.querySelector(`#setup [data-thing="${CSS.escape(focusNext)}"]`);
  if (thing) thing.focus({ preventScroll: true });
  focusNext = "";
});

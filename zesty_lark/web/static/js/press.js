// A press: what a form says at the moment its button is pressed, under an id of its own, so that two presses of one
// button are two, and one press sent twice is one. What the page itself can see to be wrong is said at the field.

const ID_BYTES = 16;

// Made at the press, by whatever the browser has: randomUUID is there only where the page came safely.
function newId() {
  const bytes = crypto.getRandomValues(new Uint8Array(ID_BYTES));
  return [...bytes].map((each) => each.toString(16).padStart(2, "0")).join("");
}

export const field = (act, name) => act.fields.find(([each]) => each === name)?.[1] ?? "";
export const owner = () => ({ id: document.body.dataset.person ?? "", name: document.body.dataset.personName ?? "" });
export const mine = (act) => !act.owner || act.owner.id === owner().id;

// What a press does to the run: "step" takes the step that the page offers, "none" leaves the run where it is (a
// spark-out between two passes, what is seen), anything else, or a figure of one's own, leads where only the server
// knows.
function leadsTo(form) {
  const offered = form.closest(".grind-bar") !== null && form.closest(".stop-row") === null;
  if (!offered) return ["spark_out", "observe"].includes(form.elements.act?.value) ? "none" : "elsewhere";
  if (["go_on", "close", "take_over"].includes(form.elements.act?.value)) return "elsewhere";
  const fields = [...form.elements].filter((each) => each.type === "text");
  return fields.some((each) => each.value !== each.defaultValue && each.value !== "") ? "elsewhere" : "step";
}

const label = (form, submitter) => {
  const copy = (submitter ?? form.querySelector("button"))?.cloneNode(true);
  copy?.querySelectorAll("kbd").forEach((each) => each.remove());
  return copy?.textContent.replace(/\s+/g, " ").trim() || "Press";
};

export function pressOf(form, submitter) {
  const fields = [...new FormData(form, submitter)].filter(([name]) => name !== "csrf_token" && name !== "entry_id");
  fields.push(["entry_id", newId()]);
  const run = form.dataset.outbox === "run";
  const power = document.body.dataset.power;
  if (power && form.dataset.outbox) fields.push(["power_w", power]);
  delete document.body.dataset.power;
  const readout = document.querySelector("[data-sensor-kind=position]")?.dataset.value;
  if (readout && form.elements.act?.value === "pass") fields.push(["readout_mm", readout]);
  const more = { run, label: label(form, submitter), owner: owner(), undoes: form.dataset.undoes?.split(" ") };
  return { url: form.getAttribute("action"), fields, pressed: Date.now(), leadsTo: leadsTo(form), ...more };
}

// What it comes after, among the presses that wait: whoever works a run works it in order, and undo means the press
// before it, made or waiting. Returns why it cannot be, in words; else nothing.
export function placeAfter(act, waiting) {
  const before = waiting.filter((other) => mine(other) && other.url === act.url);
  if (act.undoes && before.length) {
    const stack = [...act.undoes].reverse();
    for (const other of before) {
      if (field(other, "act") === "undo") stack.pop();
      else stack.push(field(other, "entry_id"));
    }
    if (!stack.length) return "There is nothing left to undo that this screen knows of.";
    act.fields = act.fields.filter(([name]) => name !== "supersedes");
    act.fields.push(["supersedes", stack.at(-1)]);
  }
  delete act.undoes;
  act.before = before.length ? field(before.at(-1), "entry_id") : "";
  if (before.length && act.run) {
    act.fields = act.fields.filter(([name]) => name !== "seen");
    act.fields.push(["after", act.before]);
  }
  return "";
}

function say(element, words) {
  const form = element.form;
  form.querySelectorAll(".field-wrong").forEach((each) => each.remove());
  element.setAttribute("aria-invalid", words ? "true" : "false");
  if (!words) return;
  const line = document.createElement("p");
  line.className = "field-wrong";
  line.setAttribute("role", "alert");
  line.textContent = words;
  (element.closest(".form-check, label") ?? element).after(line);
  element.focus();
}

// A bare number is in the dial's unit and can be held against what the field takes; lengths with a unit the server
// reads.
function range(element) {
  if (!element.matches("[data-least], [data-most]")) return;
  const number = element.value.trim() === "" ? NaN : Number(element.value);
  const least = Number(element.dataset.least ?? -Infinity);
  const most = Number(element.dataset.most ?? Infinity);
  element.setCustomValidity(number < least || number > most ? element.dataset.range : "");
}

function wordsFor(element) {
  if (element.validity.valueMissing) return element.dataset.missing ?? "This is needed.";
  if (element.validity.patternMismatch) return element.dataset.shape ?? "That cannot be read.";
  return element.validationMessage;
}

// The browser finds what is missing or out of range before the form is sent; it is said here, at the first such field.
document.addEventListener("invalid", (event) => {
  const form = event.target.form;
  if (!form?.matches("[data-outbox]")) return;
  event.preventDefault();
  if (form.querySelector(":invalid") === event.target) say(event.target, wordsFor(event.target));
}, true);

document.addEventListener("input", (event) => {
  if (!event.target.form?.matches("[data-outbox]")) return;
  range(event.target);
  if (event.target.getAttribute("aria-invalid") === "true" && event.target.validity.valid) say(event.target, "");
});

// A pass in less than half the time of its strokes is asked about before it is sent, with or without a network. The
// clock of the wall is asked: the other one may stand still while a tablet sleeps.
let shownAt = Date.now();
for (const each of ["shown", "went-on"]) document.addEventListener(each, () => { shownAt = Date.now(); });
document.addEventListener("click", (event) => {
  const button = event.target.closest?.("form[data-outbox] button:not([type=button])");
  const asked = button?.form.querySelector("[data-takes]");
  if (!asked) return;
  const since = Number(asked.dataset.since) + (Date.now() - shownAt) / 1000;
  const quick = since >= 0 && since < Number(asked.dataset.takes);
  const tick = asked.querySelector("input");
  tick.required = quick;
  asked.hidden = !quick && !tick.checked;
}, true);

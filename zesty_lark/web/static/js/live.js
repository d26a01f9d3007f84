// A connected gauge on the page: its value as it comes, taken by a key or by the gauge's own button. What is taken
// waits its turn here until the press before it is logged; nothing is taken while the page asks about a reading.
const AGAIN_MS = 2000;
let source = null;
let address = "";
let last = null;
const waiting = [];

const box = () => document.querySelector("[data-live]");
const form = () => document.getElementById("reading");

function fault(words) {
  const line = box()?.querySelector(".live-fault");
  if (!line) return;
  line.textContent = words;
  line.hidden = !words;
}

function show(words) {
  const value = box()?.querySelector(".live-value");
  if (value) value.textContent = words;
}

function heard(event) {
  const said = JSON.parse(event.data);
  if (said.fault) {
    last = null;
    show("–");
    fault(said.words);
    return;
  }
  fault("");
  last = said;
  show(said.shown);
  if (said.pressed) take(said);
}

function listen() {
  const here = box();
  if (here?.dataset.live === address) return;
  source?.close();
  address = "";
  last = null;
  if (!here) {
    waiting.length = 0; // what was pressed after the last place belongs to none
    return;
  }
  address = here.dataset.live;
  source = new EventSource(address);
  source.onmessage = heard;
  source.onerror = () => {
    last = null;
    show("–");
    if (source.readyState !== EventSource.CLOSED) return;
    fault("No live readings just now; trying again. Type them as long.");
    address = "";
    setTimeout(listen, AGAIN_MS);
  };
}

function take(said) {
  waiting.push(said);
  hand();
}

function hand() {
  if (!waiting.length || Number(document.body.dataset.waiting ?? 0) > 0) return;
  const into = box()?.dataset.liveInto;
  if (into === "places" || into === "lifts") {
    intoPlace(waiting.shift(), into === "lifts");
    return;
  }
  const to = form();
  if (!to || to.dataset.questioned) return;
  const said = waiting.shift();
  to.elements.value.value = said.um;
  to.elements.typed_in.value = "um";
  to.elements.source.value = said.line;
  to.requestSubmit();
}

function intoPlace(said, bare) {
  const fields = [...document.querySelectorAll("[data-place]")];
  const field = fields.find((one) => one === document.activeElement) ?? fields.find((one) => !one.value);
  if (!field) return;
  field.value = bare ? said.um : said.shown;
  if (bare) field.form.elements.typed_in.value = "um";
  (fields[fields.indexOf(field) + 1] ?? field).focus();
}

document.addEventListener("click", (event) => {
  if (!event.target.closest("[data-action=take-live]")) return;
  if (last) take(last);
  else fault("There is nothing to take: the gauge says nothing.");
});

new MutationObserver(() => {
  listen();
  hand();
}).observe(document.body, { childList: true, subtree: true });
setInterval(hand, 300);
listen();

// A station that others log on too: the server says when something is new, and the page is drawn anew. When the server
// cannot say it, the page asks now and then. What it shows after the next presses is kept, for when nobody answers.
import * as kept from "./keep.js";
import { ask, show, tell } from "./outbox.js";

const POLL_MS = 4000;
const LOOKS_ON_MS = 500;
const STILL_MS = 600;
let source = null;
let address = "";
let drawing = false;
let stills = null;

const station = () => document.querySelector("[data-follow]");
const waits = () => Number(document.body.dataset.waiting ?? 0) > 0;
const typing = () => document.activeElement?.matches("input, textarea, select");
const inUse = () => typing() || document.querySelector("#main details[open]");

async function draw() {
  const here = station();
  if (!here || drawing || waits() || inUse() || document.hidden) return;
  drawing = true;
  try {
    const answer = await ask(here.dataset.poll);
    if (answer.status === 200 && !answer.redirected && !waits()) show(await answer.text());
    if (answer.status === 204) delete here.dataset.behind;
    if (answer.status < 500) tell("");
  } catch {
    if (!waits()) tell("The server does not answer; this screen may be behind. Nothing logged is lost.");
  } finally {
    drawing = false;
  }
}

function follow() {
  const here = station();
  const wanted = here ? here.dataset.follow : "";
  if (wanted === address && source && source.readyState !== EventSource.CLOSED) return;
  source?.close();
  source = null;
  address = wanted;
  if (!here) return;
  source = new EventSource(`${wanted}?seen=${here.dataset.seen}`);
  source.onmessage = (event) => {
    const now = station();
    if (!now || JSON.parse(event.data).seq <= Number(now.dataset.seen)) return;
    now.dataset.behind = "1";
    const looksOn = !now.dataset.ahead; // they do not come all at once
    setTimeout(draw, looksOn ? Math.random() * LOOKS_ON_MS : 0);
  };
}

// What comes is asked for once the page stands still, and only when it is not known already.
async function lookAhead() {
  const here = station();
  if (!here?.dataset.ahead || waits()) return;
  const known = await kept.ahead(location.pathname);
  if (known?.seen === here.dataset.seen) return;
  try {
    const answer = await ask(here.dataset.ahead);
    if (answer.ok && !answer.redirected) {
      const html = await answer.text();
      const seen = new DOMParser().parseFromString(html, "text/html").body.dataset.seen;
      await kept.putAhead(location.pathname, seen, html);
    }
  } catch {
    // it is asked for again after the next press
  }
}

async function poll() {
  if (source?.readyState !== EventSource.OPEN) {
    follow();
    await draw();
  } else if (station()?.dataset.behind) {
    await draw();
  }
  setTimeout(poll, POLL_MS);
}

function onceStill() {
  clearTimeout(stills);
  stills = setTimeout(lookAhead, STILL_MS);
}

document.addEventListener("shown", () => {
  follow();
  onceStill();
});
document.addEventListener("all-sent", () => {
  if (station()?.dataset.behind) draw();
});
follow();
onceStill();
setTimeout(poll, POLL_MS);

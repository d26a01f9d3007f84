// A press at the machine is kept in this browser until the server says it is logged. It carries its own id, so that
// sending it again, after a lost answer or a restart of anything, logs nothing twice. While nobody answers, any number
// of presses wait here in their order, and the page goes on with what the plan has next. Only a lost connection and 503
// mean "try again"; what is refused otherwise, and what was pressed after it, is shown until it is sent or dropped.
import * as kept from "./keep.js";
import { field, mine, placeAfter, pressOf } from "./press.js";
import { behindRefused, goneBy, reason, showRefused, stands } from "./refused.js";

const AWAY = 503;
const NOT_YET = 202;
const RETRY_MS = 1500;
const ANSWER_MS = 10000;
const APART_MS = 600;
let sending = false;
let more = false;
let pressed = false;
let away = false;
let last = 0;
let wentOn = "";

const token = () => document.querySelector("meta[name=csrf-token]").content;

export function tell(words) {
  const state = document.getElementById("outbox-state");
  state.textContent = words;
  state.hidden = !words;
}

function busy(on) {
  document.querySelectorAll("form[data-outbox] button").forEach((each) => { each.disabled = on; });
}

// Two answers may overtake each other; the page never goes back behind what was logged.
export function show(html) {
  const page = new DOMParser().parseFromString(html, "text/html");
  const [then, now] = [page, document].map((each) => each.getElementById("station"));
  if (then && now && Number(then.dataset.seen) < Number(now.dataset.seen)) return;
  for (const id of ["rail", "top", "main"]) {
    const fresh = page.getElementById(id);
    if (fresh) document.getElementById(id)?.replaceWith(document.importNode(fresh, true));
  }
  document.title = page.title;
  const fresh = page.querySelector("meta[name=csrf-token]");
  if (fresh) document.querySelector("meta[name=csrf-token]").content = fresh.content;
  wentOn = "";
  window.htmx?.process(document.getElementById("main"));
  document.querySelector("#main [autofocus]")?.focus();
  goneBy(send).then(() => showRefused(send));
  document.dispatchEvent(new CustomEvent("shown"));
}

export async function ask(url, options = {}) {
  return fetch(url, { ...options, signal: AbortSignal.timeout(ANSWER_MS), credentials: "same-origin" });
}

async function freshToken() {
  const answer = await ask(location.href);
  if (answer.redirected && new URL(answer.url).pathname === "/sign-in") return false;
  const page = new DOMParser().parseFromString(await answer.text(), "text/html");
  document.querySelector("meta[name=csrf-token]").content = page.querySelector("meta[name=csrf-token]").content;
  return true;
}

const path = (act) => new URL(act.url, location.href).pathname;
const here = (act) => path(act) === location.pathname;

async function waiting() {
  const list = await kept.acts();
  document.body.dataset.waiting = list.length;
  return list;
}

async function post(act) {
  const waited = String(Math.max(0, Date.now() - act.pressed));
  const headers = { "X-CSRFToken": token(), "X-Lark-Outbox": "1", "X-Lark-Waited": waited };
  if (act.owner?.id) headers["X-Lark-Owner"] = act.owner.id;
  const answer = await ask(act.url, { method: "POST", body: new URLSearchParams(act.fields), headers });
  if (answer.status === AWAY || answer.status === NOT_YET) throw new Error("away");
  return answer;
}

const signedOut = (answer) => answer.status === 401 || new URL(answer.url).pathname === "/sign-in";

// A refused press of a run takes those after it along; what is logged at any time, a note, a stop, goes its own way,
// and what named it as the one before names the one before that.
async function refuse(act, list, page, status) {
  const behind = list.filter((other) => other.n !== act.n && other.url === act.url && other.run);
  const stood = stands(page) || (here(act) ? stands(document) : "");
  const along = act.run ? behind.map((other) => ({ ...other, stood, follows: true, why: behindRefused(other) })) : [];
  const link = act.before ? ["after", act.before] : ["seen", field(act, "seen")];
  const relinked = act.run ? [] : behind.filter((other) => field(other, "after") === field(act, "entry_id"));
  for (const other of relinked) other.fields = other.fields.map((each) => (each[0] === "after" ? link : each));
  await kept.refuse([{ ...act, stood, why: reason(act, page, status) }, ...along], relinked);
}

// The first of the queue is sent, and is gone from here once the server has answered for it.
async function sendFirst(list) {
  const act = list[0];
  let answer = await post(act);
  if (answer.status === 400 && !signedOut(answer) && await freshToken()) answer = await post(act);
  if (signedOut(answer)) {
    location.assign(`/sign-in?next=${encodeURIComponent(location.pathname)}`);
    return false;
  }
  if (answer.headers.has("X-Lark-Keep")) {
    location.reload(); // somebody else is signed in here by now
    return false;
  }
  const html = await answer.text();
  if (answer.ok) await kept.drop(act.n);
  else await refuse(act, list, new DOMParser().parseFromString(html, "text/html"), answer.status);
  const left = (await waiting()).filter(mine);
  if (!here(act)) {
    tell(`A press that had been waiting ${answer.ok ? "is logged now" : "was refused"}.`);
    if (!answer.ok) await showRefused(send);
  } else if (!left.some(here)) {
    pressed = false;
    show(html);
  }
  return left.length > 0;
}

async function sendAll() {
  let list = (await waiting()).filter(mine);
  while (list.length) {
    if (!await sendFirst(list)) break;
    list = (await waiting()).filter(mine);
  }
  if (!away && !list.length) return;
  away = false;
  tell("");
}

// Presses of others wait for them; what is pressed here by whoever is signed in goes its way.
async function tellOthers() {
  const others = (await kept.acts()).filter((act) => !mine(act));
  if (!others.length || away) return;
  const { name } = others[0].owner;
  const many = others.length === 1 ? "A press" : `${others.length} presses`;
  tell(`${many} of ${name} still wait${others.length === 1 ? "s" : ""} here, to be sent when ${name} signs in.`);
}

export async function send() {
  if (sending) {
    more = true; // what was put here meanwhile is looked for once more
    return;
  }
  sending = true;
  more = false;
  try {
    if (navigator.locks) await navigator.locks.request("zesty-lark-outbox", sendAll);
    else await sendAll();
    await tellOthers();
  } catch {
    away = true;
    const list = (await waiting()).filter(mine);
    const many = list.length === 1 ? "The press is" : `${list.length} presses are`;
    tell(`Not sent yet: the server does not answer. ${many} kept here, and sent when it does.`);
    await goOn(list.filter(here));
    setTimeout(send, RETRY_MS);
  } finally {
    sending = false;
    if (away || !(await waiting()).filter(mine).some(here)) {
      pressed = false;
      busy(false);
    }
    if (more && !away) send();
  }
}

// What the page shows after the presses that wait: taken from what the server said before it went away.
async function goOn(list) {
  const station = document.getElementById("station");
  const standing = list.map((act) => field(act, "entry_id")).join();
  if (!list.length || !station?.dataset.ahead || standing === wentOn) return;
  wentOn = standing;
  last = Date.now();
  const moves = list.filter((act) => act.run && act.leadsTo !== "none");
  if (!moves.length) return;
  const coming = await kept.ahead(location.pathname);
  const first = field(list[0], "seen");
  const known = coming && coming.seen === first
    ? new DOMParser().parseFromString(coming.html, "text/html").querySelector(`[data-ahead="${moves.length}"]`)
    : null;
  const now = station.querySelector(".grind-now");
  const bar = station.querySelector(".grind-bar");
  if (known && moves.every((act) => act.leadsTo === "step")) {
    now.replaceWith(document.importNode(known.content.querySelector(".grind-now"), true));
    bar.replaceWith(document.importNode(known.content.querySelector(".grind-bar"), true));
  } else {
    const words = document.createElement("p");
    words.className = "now-word";
    words.textContent = "Kept. What comes next needs the server: it goes on when that answers.";
    now.replaceChildren(words);
    bar.replaceChildren(...bar.querySelectorAll(".stop-row"));
  }
  station.querySelector("[autofocus]")?.focus();
  document.dispatchEvent(new CustomEvent("went-on"));
}

document.addEventListener("submit", async (event) => {
  const form = event.target.closest("form[data-outbox]");
  if (!form) return;
  event.preventDefault();
  if (pressed && !away) {
    tell("The press before is still on its way; this one was not taken.");
    return;
  }
  if (away && Date.now() - last < APART_MS) { // a wet finger presses twice; the page had just changed under it
    tell("Pressed twice at once: taken once.");
    return;
  }
  const act = pressOf(form, event.submitter);
  pressed = true;
  busy(true);
  if (form.contains(document.activeElement)) document.activeElement.blur(); // or the page takes it for in use
  const why = await kept.put(act, placeAfter);
  if (why) {
    pressed = false;
    busy(false);
    tell(why);
    return;
  }
  if (!act.run) form.reset();
  const list = (await waiting()).filter(mine);
  if (away && sending) await goOn(list.filter(here));
  send();
});

document.addEventListener("submit", (event) => {
  if (event.target.matches(".top-person")) globalThis.caches?.delete("pages"); // the next person starts with nothing
});

// Without it a reload needs the server; everything else works.
navigator.serviceWorker?.register("/static/js/worker.js", { scope: "/" }).catch(() => {});

// How many wait is counted anew, or this page would think for good that what another had just pressed waits.
kept.whenOthersChange(async () => {
  await showRefused(send);
  if (!(await waiting()).length) document.dispatchEvent(new CustomEvent("all-sent"));
});
Promise.all([showRefused(send), send()]);

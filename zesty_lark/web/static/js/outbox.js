// A press at the machine is kept in this browser until the server says it is logged. It carries its own id, so that
// sending it again, after a lost answer or a restart of anything, logs nothing twice. While nobody answers, any number
// of presses wait here in their order, and the page goes on with what the plan has next. Only a lost connection and 503
// mean "try again"; what is refused otherwise, and what was pressed after it, is shown until it is sent or dropped.
import * as kept from "./keep.js";

const AWAY = 503;
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
const who = () => document.querySelector(".top-person a")?.firstChild?.textContent?.trim() ?? "";
const field = (act, name) => act.fields.find(([each]) => each === name)?.[1] ?? "";

export function tell(words) {
  const state = document.getElementById("outbox-state");
  state.textContent = words;
  state.hidden = !words;
}

function button(words, act) {
  const made = document.createElement("button");
  made.type = "button";
  made.className = "btn btn-outline-secondary btn-sm";
  made.textContent = words;
  made.addEventListener("click", act);
  return made;
}

const UNSAID = ["entry_id", "seen", "supersedes", "after", "power_w"];

function said(act) {
  const told = act.fields.filter(([name, value]) => value && !UNSAID.includes(name));
  const words = told.map(([name, value]) => (name === "act" ? value : `${name.replaceAll("_", " ")} ${value}`));
  return `${act.url.split("/")[2] ?? act.url}: ${words.join(", ")}`;
}

async function showRefused() {
  const list = await kept.refused();
  const box = document.getElementById("outbox-refused");
  const lines = list.map((act) => {
    const line = document.createElement("li");
    line.append(
      `${said(act)} (${act.at}; the server answered ${act.status}) `,
      button("Send it again", async () => {
        await kept.again(act);
        await showRefused();
        send();
      }),
      " ",
      button("Drop it", async () => {
        await kept.forgive(act.n);
        await showRefused();
      }),
    );
    return line;
  });
  box.querySelector("ul").replaceChildren(...lines);
  box.hidden = !list.length;
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
const mine = (act) => !act.who || !who() || act.who === who();

async function waiting() {
  const list = await kept.acts();
  document.body.dataset.waiting = list.length;
  return list;
}

async function post(act) {
  const waited = String(Math.max(0, Date.now() - act.pressed));
  const headers = { "X-CSRFToken": token(), "X-Lark-Outbox": "1", "X-Lark-Waited": waited };
  const answer = await ask(act.url, { method: "POST", body: new URLSearchParams(act.fields), headers });
  if (answer.status === AWAY) throw new Error("away");
  return answer;
}

const signedOut = (answer) => answer.status === 401 || new URL(answer.url).pathname === "/sign-in";

// The first of the queue is sent, and is gone from here once the server has answered for it.
async function sendFirst(list) {
  const act = list[0];
  let answer = await post(act);
  if (answer.status === 400 && !signedOut(answer) && await freshToken()) answer = await post(act);
  if (signedOut(answer)) {
    location.assign(`/sign-in?next=${encodeURIComponent(location.pathname)}`);
    return false;
  }
  if (answer.ok) {
    await kept.drop(act.n);
  } else {
    const at = new Date().toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" });
    const after = list.filter((other, place) => place === 0 || (other.url === act.url && field(other, "after")));
    await kept.refuse(after, at, answer.status);
    await showRefused();
  }
  const html = await answer.text();
  const left = await waiting();
  if (here(act)) {
    if (!left.some(here)) {
      pressed = false;
      show(html);
    }
  } else {
    tell(`A press that had been waiting ${answer.ok ? "is logged now" : "was refused"}.`);
  }
  return left.length > 0;
}

async function sendAll() {
  let list = await waiting();
  while (list.length) {
    if (!mine(list[0])) {
      tell(`A press of ${list[0].who} is still waiting here. It is sent when ${list[0].who} signs in.`);
      return;
    }
    if (!await sendFirst(list)) break;
    list = await waiting();
  }
  if (!away && !list.length) return;
  away = false;
  tell("");
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
  } catch {
    away = true;
    const list = await waiting();
    const many = list.length === 1 ? "The press is" : `${list.length} presses are`;
    tell(`Not sent yet: the server does not answer. ${many} kept here, and sent when it does.`);
    await goOn(list.filter(here));
    setTimeout(send, RETRY_MS);
  } finally {
    sending = false;
    if (away || !(await waiting()).some(here)) {
      pressed = false;
      busy(false);
    }
    if (more && !away) send();
  }
}

// What the page shows after the presses that wait: taken from what the server said before it went away.
async function goOn(list) {
  const station = document.getElementById("station");
  const stands = list.map((act) => field(act, "entry_id")).join();
  if (!list.length || !station?.dataset.ahead || stands === wentOn) return;
  wentOn = stands;
  const coming = await kept.ahead(location.pathname);
  const first = field(list[0], "seen");
  const known = coming && coming.seen === first
    ? new DOMParser().parseFromString(coming.html, "text/html").querySelector(`[data-ahead="${list.length}"]`)
    : null;
  const plain = list.every((act) => !act.typed);
  const now = station.querySelector(".grind-now");
  const bar = station.querySelector(".grind-bar");
  if (known && plain) {
    now.replaceWith(document.importNode(known.content.querySelector(".grind-now"), true));
    bar.replaceWith(document.importNode(known.content.querySelector(".grind-bar"), true));
  } else {
    const words = document.createElement("p");
    words.className = "now-word";
    words.textContent = "Kept. What comes next needs the server: it goes on when that answers.";
    now.replaceChildren(words);
    bar.replaceChildren();
  }
  last = Date.now();
  station.querySelector("[autofocus]")?.focus();
}

// Whether something was typed, or chosen, that is not what the page offered.
function typed(form) {
  const act = form.elements.act?.value;
  if (["observe", "halt", "undo", "skip", "leave", "go_on", "close", "take_over"].includes(act)) return true;
  const fields = [...form.elements].filter((each) => each.type === "text");
  return fields.some((each) => each.value !== each.defaultValue && each.value !== "");
}

document.addEventListener("submit", async (event) => {
  const form = event.target.closest("form[data-outbox]");
  if (!form) return;
  event.preventDefault();
  if (pressed && !away) {
    tell("The press before is still on its way; this one was not taken.");
    return;
  }
  if (away && Date.now() - last < APART_MS) return; // a wet finger presses twice; the page had just changed under it
  const given = [...new FormData(form, event.submitter)].filter(([name]) => name !== "csrf_token");
  const power = document.body.dataset.power;
  const run = form.dataset.outbox === "run";
  if (power && run) given.push(["power_w", power]);
  delete document.body.dataset.power;
  const act = { url: form.getAttribute("action"), fields: given, who: who(), pressed: Date.now(), typed: typed(form) };
  pressed = true;
  busy(true);
  const before = (await waiting()).filter((other) => other.url === act.url).at(-1);
  if (before && run) {
    act.fields = act.fields.filter(([name]) => name !== "seen");
    act.fields.push(["after", field(before, "entry_id")]);
  }
  await kept.put(act);
  await waiting();
  if (away && sending) await goOn((await kept.acts()).filter(here));
  send();
});

document.addEventListener("submit", (event) => {
  if (event.target.matches(".top-person")) globalThis.caches?.delete("pages"); // the next person starts with nothing
});

// Without it a reload needs the server; everything else works.
navigator.serviceWorker?.register("/static/js/worker.js", { scope: "/" }).catch(() => {});
// What an earlier version kept in another place goes on from here.
async function movedIn() {
  const one = JSON.parse(localStorage.getItem("zesty-lark-outbox") ?? "null");
  const list = JSON.parse(localStorage.getItem("zesty-lark-outbox-refused") ?? "[]");
  if (one) await kept.put({ pressed: Date.now(), typed: true, ...one });
  for (const act of list) await kept.putRefused({ pressed: Date.now(), typed: true, ...act });
  localStorage.removeItem("zesty-lark-outbox");
  localStorage.removeItem("zesty-lark-outbox-refused");
}

// How many wait is counted anew, or this page would think for good that what another had just pressed waits.
kept.whenOthersChange(async () => {
  if (!(await waiting()).length) document.dispatchEvent(new CustomEvent("all-sent"));
});
movedIn().then(() => Promise.all([showRefused(), send()]));

// A press at the machine is kept in this browser until the server says it is logged. It carries its own id, so that
// sending it again, after a lost answer or a restart of anything, logs nothing twice. Only a lost connection and 503
// mean "try again"; what is refused otherwise is shown, and stays in a list until it is sent again or dropped.
const KEPT = "zesty-lark-outbox";
const REFUSED = "zesty-lark-outbox-refused";
const AWAY = 503;
const RETRY_MS = 1500;
const POLL_MS = 4000;
const ANSWER_MS = 10000;
let sending = false;

const read = () => JSON.parse(localStorage.getItem(KEPT) ?? "null");
const keep = (entry) => localStorage.setItem(KEPT, JSON.stringify(entry));
const drop = () => localStorage.removeItem(KEPT);
const token = () => document.querySelector("meta[name=csrf-token]").content;
const refused = () => JSON.parse(localStorage.getItem(REFUSED) ?? "[]");
const who = () => document.querySelector(".top-person a")?.firstChild?.textContent?.trim() ?? "";

function tell(words) {
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

function said(entry) {
  const told = entry.fields.filter(([name, value]) => value && !["entry_id", "seen", "supersedes"].includes(name));
  const words = told.map(([name, value]) => (name === "act" ? value : `${name.replaceAll("_", " ")} ${value}`));
  return `${entry.url.split("/")[2] ?? entry.url}: ${words.join(", ")}`;
}

function keepRefused(list) {
  localStorage.setItem(REFUSED, JSON.stringify(list));
  const box = document.getElementById("outbox-refused");
  const lines = list.map((entry, at) => {
    const without = () => keepRefused(refused().filter((_, other) => other !== at));
    const line = document.createElement("li");
    line.append(
      `${said(entry)} (${entry.at}; the server answered ${entry.status}) `,
      button("Send it again", () => {
        if (read()) return;
        without();
        keep(entry);
        send();
      }),
      " ",
      button("Drop it", without),
    );
    return line;
  });
  box.querySelector("ul").replaceChildren(...lines);
  box.hidden = !list.length;
}

function busy(on) {
  document.querySelectorAll("form[data-outbox] button").forEach((button) => { button.disabled = on; });
}

function show(html) {
  const page = new DOMParser().parseFromString(html, "text/html");
  for (const id of ["rail", "top", "main"]) {
    const fresh = page.getElementById(id);
    if (fresh) document.getElementById(id)?.replaceWith(document.importNode(fresh, true));
  }
  document.title = page.title;
  const fresh = page.querySelector("meta[name=csrf-token]");
  if (fresh) document.querySelector("meta[name=csrf-token]").content = fresh.content;
  window.htmx?.process(document.getElementById("main"));
  document.querySelector("#main [autofocus]")?.focus();
}

async function ask(url, options = {}) {
  return fetch(url, { ...options, signal: AbortSignal.timeout(ANSWER_MS), credentials: "same-origin" });
}

async function freshToken() {
  const answer = await ask(location.href);
  if (answer.redirected && new URL(answer.url).pathname === "/sign-in") return false;
  const page = new DOMParser().parseFromString(await answer.text(), "text/html");
  document.querySelector("meta[name=csrf-token]").content = page.querySelector("meta[name=csrf-token]").content;
  return true;
}

async function send(again = true) {
  const entry = read();
  if (!entry || sending) return;
  if (entry.who && who() && entry.who !== who()) {
    tell(`A press of ${entry.who} is still waiting here. It is sent when ${entry.who} signs in.`);
    return;
  }
  sending = true;
  busy(true);
  try {
    const answer = await ask(entry.url, {
      method: "POST", body: new URLSearchParams(entry.fields),
      headers: { "X-CSRFToken": token(), "X-Lark-Outbox": "1" },
    });
    if (answer.status === AWAY) throw new Error("away");
    if (answer.status === 401 || new URL(answer.url).pathname === "/sign-in") {
      location.assign(`/sign-in?next=${encodeURIComponent(location.pathname)}`);
      return;
    }
    if (answer.status === 400 && again && await freshToken()) {
      sending = false;
      await send(false);
      return;
    }
    drop();
    tell("");
    if (!answer.ok) {
      const at = new Date().toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" });
      keepRefused([...refused(), { ...entry, at, status: answer.status }]);
    }
    const html = await answer.text();
    if (location.pathname === new URL(entry.url, location.href).pathname) show(html);
    else tell(`A press that had been waiting ${answer.ok ? "is logged now" : "was refused"}.`);
  } catch {
    tell("Not sent yet: the server does not answer. The press is kept here and sent again by itself.");
    setTimeout(send, RETRY_MS);
  } finally {
    sending = false;
    if (!read()) busy(false);
  }
}

document.addEventListener("submit", (event) => {
  const form = event.target.closest("form[data-outbox]");
  if (!form) return;
  event.preventDefault();
  if (read()) {
    tell("The press before is still on its way; this one was not taken.");
    return;
  }
  const fields = [...new FormData(form)].filter(([name]) => name !== "csrf_token");
  keep({ url: form.getAttribute("action"), fields, who: who() });
  send();
});

async function poll() {
  const station = document.querySelector("[data-poll]");
  const inUse = document.activeElement?.matches("input, textarea, select") || document.querySelector("details[open]");
  if (station && !read() && !inUse && !document.hidden) {
    try {
      const answer = await ask(station.dataset.poll);
      if (answer.status === 200 && !answer.redirected && !read()) show(await answer.text());
      if (answer.status < 500) tell("");
    } catch {
      tell("The server does not answer; this screen may be behind. Nothing logged is lost.");
    }
  }
  setTimeout(poll, POLL_MS);
}

keepRefused(refused());
send();
setTimeout(poll, POLL_MS);

// What the server refused: one line on the page, in words of the work. It goes away when the step is done otherwise,
// and can be dropped all at once; what is in it can be sent again.
import * as kept from "./keep.js";
import { field, placeAfter } from "./press.js";

const STEPS = ["place", "touch_off", "pass", "spark_out", "dressed", "done", "skip", "leave", "close"];
const UNSAID = ["entry_id", "seen", "after", "power_w", "readout_mm", "supersedes"];

const path = (act) => new URL(act.url, location.href).pathname;
const said = (act) => JSON.stringify([path(act), act.why, act.fields.filter(([name]) => !UNSAID.includes(name))]);

function button(words, act) {
  const made = document.createElement("button");
  made.type = "button";
  made.className = "btn btn-outline-secondary btn-sm";
  made.textContent = words;
  made.addEventListener("click", act);
  return made;
}

// Presses that said the same and were refused for the same are one line, with how many they were.
function grouped(list) {
  const groups = new Map();
  for (const act of list) groups.set(said(act), [...(groups.get(said(act)) ?? []), act]);
  return [...groups.values()];
}

const typedIn = (act) => act.fields.filter(([name, value]) => value && ["note", "reason"].includes(name));

function words(group) {
  const act = group.at(-1);
  const job = /^\/jobs\/([^/]+)\//.exec(path(act))?.[1];
  const elsewhere = job && !location.pathname.startsWith(`/jobs/${job}/`) ? `${job}: ` : "";
  const own = typedIn(act).map(([, value]) => ` “${value}”`).join("");
  return `${elsewhere}${act.why}${own}${group.length > 1 ? ` (${group.length} presses)` : ""}`;
}

// Sent again it comes after what the screen shows now, or after what waits.
function relink(act, waiting) {
  const seen = document.getElementById("station")?.dataset.seen;
  if (act.run) act.fields = [...act.fields.filter(([name]) => !["seen", "after"].includes(name)), ["seen", seen]];
  placeAfter(act, waiting);
}

// A press of a run is sent again from the page of that run, where it is seen how things stand.
function sendAgain(group, send) {
  const act = group[0];
  if (act.run && path(act) !== location.pathname) {
    const link = document.createElement("a");
    link.href = act.url;
    link.className = "btn btn-outline-secondary btn-sm";
    link.textContent = "Look at it";
    return link;
  }
  return button("Send it again", async () => {
    await kept.again(group, relink);
    await showRefused(send);
    send();
  });
}

function line(group, send) {
  const made = document.createElement("li");
  made.append(
    `${words(group)} `,
    sendAgain(group, send),
    " ",
    button("Drop it", async () => {
      await kept.forgive(group);
      await showRefused(send);
    }),
  );
  return made;
}

export async function showRefused(send) {
  const list = await kept.refused();
  const groups = grouped(list);
  const box = document.getElementById("outbox-refused");
  box.hidden = !groups.length;
  if (!groups.length) return;
  const newest = groups.findLast((group) => !group[0].follows) ?? groups.at(-1);
  const more = groups.length > 1 ? ` And ${groups.length - 1} more.` : "";
  box.querySelector(".refused-newest").textContent = words(newest) + more;
  box.querySelector("ul").replaceChildren(...groups.map((group) => line(group, send)));
  box.querySelector("[data-action=drop-refused]").onclick = async () => {
    await kept.forgive(list);
    await showRefused(send);
  };
  for (const each of document.querySelectorAll("#main [data-refused]")) {
    const why = each.dataset.refused || each.textContent.trim();
    if (list.some((act) => act.why === why)) each.hidden = true; // said once
  }
}

// Why, as the page that answered has it; where none has, what was pressed and what the server said.
export function reason(act, page, status) {
  const told = page.querySelector("[data-refused]");
  const own = told?.dataset.refused || told?.textContent.replace(/\s+/g, " ").trim();
  return own || `${act.label}: not logged, the server answered ${status}. Send it again, or look first.`;
}

export const behindRefused = (act) => `${act.label}: not logged, since the press before it was refused.`;

// Where a run stands, as its page tells it: a refused step is over when that has changed.
export const stands = (page) => page.querySelector("#station")?.dataset.stands ?? "";

export async function goneBy(send) {
  const now = stands(document);
  if (!now) return;
  const over = (await kept.refused()).filter(
    (act) => path(act) === location.pathname && act.stood && act.stood !== now && STEPS.includes(field(act, "act")),
  );
  if (over.length) {
    await kept.forgive(over);
    await showRefused(send);
  }
}

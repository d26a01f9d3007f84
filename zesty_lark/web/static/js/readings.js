// What the machine's readout and power meter say, as they say it. The most that the meter showed since the last press
// goes with the next one.
import { show } from "./outbox.js";

const sources = new Map();

function fault(words) {
  const line = document.querySelector(".readings-fault");
  if (!line) return;
  line.textContent = words;
  line.hidden = !words;
}

function heard(address, event) {
  const said = JSON.parse(event.data);
  const shown = document.querySelector(`[data-sensor="${address}"]`);
  if (!shown) return;
  fault(said.fault ? said.words : "");
  shown.textContent = said.fault ? "–" : said.shown;
  shown.dataset.value = said.fault ? "" : said.value;
  if (said.fault || shown.dataset.sensorKind !== "power") return;
  const most = Number(document.body.dataset.power ?? 0);
  if (Number(said.value) > most) document.body.dataset.power = said.value;
}

function listen() {
  const wanted = new Set([...document.querySelectorAll("[data-sensor]")].map((each) => each.dataset.sensor));
  for (const [address, source] of sources) {
    if (wanted.has(address) && source.readyState !== EventSource.CLOSED) continue;
    source.close();
    sources.delete(address);
  }
  for (const address of wanted) {
    if (sources.has(address)) continue;
    const source = new EventSource(address);
    source.onmessage = (event) => heard(address, event);
    sources.set(address, source);
  }
}

// The readout's number goes into the field beside the key, as the readout has it.
document.addEventListener("click", (event) => {
  const asked = event.target.closest("[data-action=take-readout]");
  const value = document.querySelector("[data-sensor-kind=position]")?.dataset.value;
  if (!asked) return;
  if (!value) fault("There is nothing to take: the readout says nothing.");
  else asked.form.querySelector("input[type=text], input:not([type])").value = `${value} mm`;
});

// The simulated grinder does an act, and the page goes on where it is: what follows the readout keeps following.
document.addEventListener("submit", async (event) => {
  const form = event.target.closest("form.simulated");
  if (!form) return;
  event.preventDefault();
  const asked = { method: "POST", body: new URLSearchParams(new FormData(form)), headers: { "X-Lark-Outbox": "1" } };
  form.querySelector("button").disabled = true;
  try {
    const answer = await fetch(form.action, asked); // an act takes as long as it takes
    if (new URL(answer.url).pathname === "/sign-in") location.assign(answer.url);
    else show(await answer.text());
  } catch {
    fault("The server does not answer: the grinder was not asked, or has done it already. Look at the readout.");
    form.querySelector("button").disabled = false;
  }
});

document.addEventListener("shown", listen);
setInterval(listen, 2000);
listen();

// Every main action has a letter: pressing it presses the thing that shows it. "?" lists the letters of the page.
const BETWEEN_MS = 600;
const typing = (element) => element.matches("textarea, select, input:not([type=checkbox]):not([type=radio])");
const usable = (element) => !element.disabled && element.checkVisibility() && !element.closest("fieldset[disabled]");
const label = (element) => {
  const copy = (element.matches("input") ? element.closest("label") ?? element : element).cloneNode(true);
  copy.querySelectorAll("kbd, .station-state").forEach((part) => part.remove());
  return copy.textContent.trim();
};

function press(element) {
  element.click();
  if (element.matches("summary") && element.parentElement.open) {
    const field = element.parentElement.querySelector("input:not([type=hidden]), select, textarea");
    field?.focus();
    field?.select?.();
  }
}

const arrows = { arrowup: "↑", arrowdown: "↓", arrowleft: "←", arrowright: "→" };

function showKeys() {
  const dialog = document.getElementById("keys");
  const list = dialog.querySelector("dl");
  list.replaceChildren();
  for (const element of [...document.querySelectorAll("[data-key]")].filter(usable)) {
    const key = document.createElement("dt");
    const named = arrows[element.dataset.key] ?? element.dataset.key;
    const cap = named.replace("shift+", "⇧").toUpperCase();
    key.append(Object.assign(document.createElement("kbd"), { textContent: cap }));
    const words = Object.assign(document.createElement("dd"), { textContent: label(element) });
    list.append(key, words);
  }
  const key = Object.assign(document.createElement("dt"), { textContent: "Esc" });
  list.append(key, Object.assign(document.createElement("dd"), { textContent: "Out of a field, so that letters act" }));
  dialog.showModal();
}

// A number of two digits is two keys, one soon after the other; where none is longer, it is pressed at once.
let typed = "";
let waits = 0;

function pressNumber(digit) {
  typed += digit;
  clearTimeout(waits);
  const numbered = [...document.querySelectorAll("[data-key^='shift+']")].filter(usable);
  const wanted = `shift+${typed}`;
  const element = numbered.find((one) => one.dataset.key === wanted);
  const longer = numbered.some((one) => one.dataset.key.startsWith(wanted) && one !== element);
  const go = () => {
    typed = "";
    if (element?.isConnected) press(element);
  };
  if (longer) waits = setTimeout(go, BETWEEN_MS);
  else go();
}

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || document.getElementById("keys").open) return;
  if (event.key === "Escape" && typing(event.target)) {
    event.target.blur();
    return;
  }
  if (typing(event.target) || event.repeat) return;
  const digit = /^Digit\d$/.test(event.code) && event.shiftKey;
  if (digit) {
    event.preventDefault();
    pressNumber(event.code.slice(5));
    return;
  }
  const wanted = event.key.toLowerCase();
  const element = [...document.querySelectorAll("[data-key]")].find((one) => one.dataset.key === wanted && usable(one));
  if (element) {
    event.preventDefault();
    press(element);
  }
});

document.addEventListener("click", (event) => {
  if (event.target.closest("[data-action=show-keys]")) showKeys();
});

// What is wrong comes first: the first field that says so has the cursor.
document.querySelector("main [aria-invalid=true]")?.focus();

// A wait that runs down by itself: each time on the page that is still to come says how long it is until then.
const SECOND = 1000;

function words(seconds) {
  if (seconds <= 0) return "now";
  const minutes = Math.ceil(seconds / 60);
  return minutes < 2 ? `in ${Math.ceil(seconds)} s` : `in ${minutes} min`;
}

function tick() {
  for (const one of document.querySelectorAll("time.until")) {
    one.title ||= one.textContent;
    one.textContent = words((new Date(one.dateTime) - Date.now()) / SECOND);
  }
}

tick();
setInterval(tick, SECOND);

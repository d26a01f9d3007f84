// Places that the wheel left bright are ticked on the drawing itself: a click on a point ticks its box, and the drawing
// shows what is ticked.
document.addEventListener("click", (event) => {
  const point = event.target.closest("[data-number]");
  const tick = point && document.querySelector(`input[name=place${point.dataset.number}]`);
  if (!tick) return;
  tick.checked = !tick.checked;
  show(tick);
});

function show(tick) {
  const number = tick.name.replace("place", "");
  document.querySelector(`[data-number="${number}"]`)?.classList.toggle("ticked", tick.checked);
}

document.addEventListener("change", (event) => {
  if (event.target.closest(".seen-places")) show(event.target);
});

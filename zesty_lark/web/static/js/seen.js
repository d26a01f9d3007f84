// Places that the wheel left bright can be ticked on the drawing too: a click on a point ticks its box.
document.addEventListener("click", (event) => {
  const point = event.target.closest("[data-number]");
  const tick = point && document.querySelector(`input[name=place${point.dataset.number}]`);
  if (!tick) return;
  tick.checked = !tick.checked;
  point.classList.toggle("ticked", tick.checked);
});

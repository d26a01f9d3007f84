// A beat to traverse by: a mark goes over the face in the time that a dress takes, back and forth, with a click at each
// end for those who want one. It only shows time; what is done with the hands is logged by hand.
let began = 0;
let sound = null;
let last = -1;

const box = () => document.querySelector("[data-beat]");

function click(high) {
  if (!sound) return;
  const tone = sound.createOscillator();
  const loud = sound.createGain();
  tone.frequency.value = high ? 1320 : 880;
  loud.gain.setValueAtTime(0.25, sound.currentTime);
  loud.gain.exponentialRampToValueAtTime(0.001, sound.currentTime + 0.09);
  tone.connect(loud).connect(sound.destination);
  tone.start();
  tone.stop(sound.currentTime + 0.1);
}

function step(now) {
  const here = box();
  if (!here || !began) {
    began = 0;
    return;
  }
  const ways = (now - began) / 1000 / Number(here.dataset.beat);
  const way = Math.floor(ways);
  const share = way % 2 ? 1 - (ways - way) : ways - way;
  here.querySelector(".beat-mark").style.left = `${100 * share}%`;
  if (way !== last) {
    last = way;
    const most = Number(here.dataset.passes);
    here.querySelector(".beat-count").textContent = way < most
      ? `pass ${way + 1} of ${most}`
      : `all ${most} passes: clear the wheel, log the dress`;
    here.dataset.way = way;
    click(way >= most);
  }
  requestAnimationFrame(step);
}

function toggle(button) {
  const running = began > 0;
  began = running ? 0 : performance.now();
  last = -1;
  button.querySelector("span").textContent = running ? "Start the beat" : "Stop the beat";
  if (!running) requestAnimationFrame(step);
}

document.addEventListener("click", (event) => {
  const beat = event.target.closest("[data-action=beat]");
  if (beat) toggle(beat);
  const switched = event.target.closest("[data-action=beat-sound]");
  if (!switched) return;
  const on = switched.getAttribute("aria-pressed") !== "true";
  switched.setAttribute("aria-pressed", String(on));
  if (on) sound = new AudioContext();
  else {
    sound?.close();
    sound = null;
  }
});

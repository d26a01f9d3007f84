// What this browser keeps until the server has it: acts in the order they were pressed, those that were refused, and
// what the page shows after the next presses. In IndexedDB, so that a reload, a crash or a closed tab loses nothing.
import { openDB } from "../lib/idb.js";

const opened = openDB("zesty-lark", 1, {
  upgrade(db) {
    db.createObjectStore("acts", { keyPath: "n", autoIncrement: true });
    db.createObjectStore("refused", { keyPath: "n", autoIncrement: true });
    db.createObjectStore("ahead", { keyPath: "path" });
  },
});

// The pages of one browser share what waits: each tells the others when that has changed.
const others = new BroadcastChannel("zesty-lark-acts");
export const whenOthersChange = (act) => { others.onmessage = act; };

// One step, on the disk when it is over.
async function step(act) {
  const moving = (await opened).transaction(["acts", "refused"], "readwrite", { durability: "strict" });
  const made = await act(moving.objectStore("acts"), moving.objectStore("refused"));
  await moving.done;
  others.postMessage("");
  return made;
}

export const acts = async () => (await opened).getAll("acts");
export const refused = async () => (await opened).getAll("refused");
export const ahead = async (path) => (await opened).get("ahead", path);
export const putAhead = async (path, seen, html) => (await opened).put("ahead", { path, seen, html });

// A press joins the queue; `place` says what it comes after, or why it cannot be: then that is returned.
export const put = (act, place) => step(async (queue) => {
  const why = place(act, await queue.getAll());
  if (!why) await queue.add(act);
  return why;
});

export const drop = (n) => step((queue) => queue.delete(n));
export const forgive = (list) => step((_, apart) => Promise.all(list.map((act) => apart.delete(act.n))));

// Acts that the server refused leave the queue and stay to be looked at; those in `relinked` wait for another.
export const refuse = (list, relinked) => step((queue, apart) => Promise.all([
  ...list.flatMap(({ n, ...act }) => [queue.delete(n), apart.add(act)]),
  ...relinked.map((act) => queue.put(act)),
]));

// Refused ones are to be sent once more, after all that waits.
export const again = (list, place) => step(async (queue, apart) => {
  for (const { n, why, stood, follows, ...act } of list) {
    place(act, await queue.getAll());
    await apart.delete(n);
    await queue.add(act);
  }
});

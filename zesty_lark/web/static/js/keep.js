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
const told = async (change) => {
  const made = await change;
  others.postMessage("");
  return made;
};
export const whenOthersChange = (act) => { others.onmessage = act; };

export const acts = async () => (await opened).getAll("acts");
export const put = async (act) => told((await opened).add("acts", act));
export const drop = async (n) => told((await opened).delete("acts", n));
export const putRefused = async (act) => (await opened).add("refused", act);
export const refused = async () => (await opened).getAll("refused");
export const forgive = async (n) => (await opened).delete("refused", n);
export const ahead = async (path) => (await opened).get("ahead", path);
export const putAhead = async (path, seen, html) => (await opened).put("ahead", { path, seen, html });

// Acts that the server refused leave the queue and stay to be looked at, in one step.
export async function refuse(list, at, status) {
  const moving = (await opened).transaction(["acts", "refused"], "readwrite");
  for (const { n, ...act } of list) {
    moving.objectStore("acts").delete(n);
    moving.objectStore("refused").add({ ...act, at, status });
  }
  await told(moving.done);
}

// One that was refused is to be sent once more, after all that waits.
export async function again({ n, ...act }) {
  const moving = (await opened).transaction(["acts", "refused"], "readwrite");
  moving.objectStore("refused").delete(n);
  moving.objectStore("acts").add(act);
  await told(moving.done);
}

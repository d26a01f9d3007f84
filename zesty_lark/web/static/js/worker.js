// The machine's page opens without the server too: as it was last shown. What ships with the application comes from
// here when it was fetched before; everything else always comes from the server.
const PAGES = "pages";
const SHIPPED = "shipped";
const VERSIONED = /^\/static\/(v-[0-9a-f]+)\//;
const KEPT = /^\/jobs\/[^/]+\/grind$/;

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));

// What a versioned address names never changes. What came with this version is kept, and with the one before it, for
// a page may still lie here that was made with that.
async function shipped(request, version) {
  const name = `${SHIPPED} ${version}`;
  const known = await caches.has(name);
  const cache = await caches.open(name);
  if (!known) {
    const old = (await caches.keys()).filter((each) => each.startsWith(`${SHIPPED} `) && each !== name);
    await Promise.all(old.slice(0, -1).map((each) => caches.delete(each)));
  }
  const found = await cache.match(request);
  if (found) return found;
  const answer = await fetch(request);
  if (answer.ok) await cache.put(request, answer.clone());
  return answer;
}

// From the server when it answers, else as it was.
async function fresh(request, name) {
  const cache = await caches.open(name);
  const key = request.url.split("?")[0];
  try {
    const answer = await fetch(request);
    if (answer.ok && !answer.redirected) await cache.put(key, answer.clone());
    return answer.status === 503 ? (await cache.match(key)) ?? answer : answer;
  } catch (error) {
    const found = await cache.match(key);
    if (found) return found;
    throw error;
  }
}

self.addEventListener("fetch", (event) => {
  const url = new URL(event.request.url);
  if (event.request.method !== "GET" || url.origin !== self.location.origin) return;
  if (url.pathname.startsWith("/static/")) {
    const version = VERSIONED.exec(url.pathname)?.[1];
    event.respondWith(version ? shipped(event.request, version) : fresh(event.request, SHIPPED));
  }
  if (event.request.mode === "navigate" && KEPT.test(url.pathname)) event.respondWith(fresh(event.request, PAGES));
});

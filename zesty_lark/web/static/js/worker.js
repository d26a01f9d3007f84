// The machine's page opens without the server too: as it was last shown. What ships with the application comes from
// here when it was fetched before; everything else always comes from the server.
const PAGES = "pages";
const SHIPPED = "shipped";
const KEPT = /^\/jobs\/[^/]+\/grind$/;

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));

async function shipped(request) {
  const cache = await caches.open(SHIPPED);
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
    event.respondWith((url.searchParams.has("v") ? shipped : fresh)(event.request, SHIPPED));
  }
  if (event.request.mode === "navigate" && KEPT.test(url.pathname)) event.respondWith(fresh(event.request, PAGES));
});

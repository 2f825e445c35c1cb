// Keeps the program itself on the device, so that a page that captures can be loaded again while the server is away.
// What people said, and every answer of the API, is never kept here.
const KEPT = "program-1";
const MOST = 80; // files; older builds are let go of

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));

async function keep(key, answer) {
  const cache = await caches.open(KEPT);
  await cache.put(key, answer);
  const keys = await cache.keys();
  for (const old of keys.slice(0, Math.max(0, keys.length - MOST))) await cache.delete(old);
}

async function fromNetwork(request, key) {
  try {
    const answer = await fetch(request);
    if (answer.ok) void keep(key, answer.clone());
    if (answer.status < 500) return answer;
    return (await caches.match(key)) ?? answer;
  } catch (error) {
    const kept = await caches.match(key);
    if (kept) return kept;
    throw error;
  }
}

self.addEventListener("fetch", (event) => {
  const { request } = event;
  const { pathname, origin } = new URL(request.url);
  if (request.method !== "GET" || origin !== self.location.origin || request.headers.has("range"))
    return;
  if (request.mode === "navigate" && !pathname.startsWith("/api/"))
    event.respondWith(fromNetwork(request, "/"));
  else if (pathname.startsWith("/static/assets/"))
    event.respondWith(caches.match(request).then((kept) => kept ?? fromNetwork(request, request)));
  else if (pathname.startsWith("/static/")) event.respondWith(fromNetwork(request, request));
});

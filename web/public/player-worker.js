/* Keeps a lesson that was opened: its page, its words, its chart and the sounds that were heard. */
const KEPT = "orchesis-lesson-1";
const OURS = /^\/(p\/|assets\/|static\/(kit|fonts|voice)\/|mark\.svg|player\.webmanifest|api\/player\/)/;

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));
self.addEventListener("message", (event) => {
  if (Array.isArray(event.data?.keep)) {
    event.waitUntil(caches.open(KEPT).then((cache) => Promise.all(event.data.keep.map((url) => cache.add(url).catch(() => {})))));
  }
});
async function forget(lesson) {
  const cache = await caches.open(KEPT);
  const kept = (await cache.keys()).filter(({ url }) => {
    const { pathname } = new URL(url);
    return pathname === lesson || pathname.startsWith(`${lesson}/`);
  });
  await Promise.all(kept.map((request) => cache.delete(request)));
}
/* The newest where there is a network, what was kept where there is none. */
self.addEventListener("fetch", (event) => {
  const { method, url } = event.request;
  const address = new URL(url);
  if (method !== "GET" || address.origin !== self.location.origin || !OURS.test(address.pathname)) return;
  event.respondWith(
    fetch(event.request)
      .then((answer) => {
        // A lesson that is no longer shared is deleted here too.
        if (answer.status === 404 && /^\/api\/player\/[^/]+$/.test(address.pathname)) event.waitUntil(forget(address.pathname));
        if (answer.ok) {
          const copy = answer.clone();
          event.waitUntil(caches.open(KEPT).then((cache) => cache.put(event.request, copy)));
        }
        return answer;
      })
      .catch(() => caches.match(event.request).then((kept) => kept ?? Response.error())),
  );
});

// Keeps the pages of installed pumps and their form of readings, and nothing else, for a phone without a network.
// self.KEPT (version, assets) stands above it: the server writes it there.
"use strict";
(() => {
  const kept = self.KEPT;
  const CACHE = `kyrtos-pump-${kept.version}`; // pages: emptied when somebody signs out
  const ASSETS = `kyrtos-asset-${kept.version}`;
  const PAGE = /^\/p\/[A-Z0-9]{8}\/((commission|readings)\/)?$/;

  self.addEventListener("install", (event) => {
    event.waitUntil(
      caches
        .open(ASSETS)
        .then((cache) => cache.addAll(kept.assets))
        .then(() => self.skipWaiting()),
    );
  });

  self.addEventListener("activate", (event) => {
    event.waitUntil(
      caches
        .keys()
        .then((names) => Promise.all(names.filter((name) => name !== CACHE && name !== ASSETS).map((name) => caches.delete(name))))
        .then(() => self.clients.claim()),
    );
  });

  async function page(request) {
    const cache = await caches.open(CACHE);
    try {
      const answer = await fetch(request);
      if (answer.ok && !answer.redirected) await cache.put(request.url, answer.clone());
      else if (answer.redirected || answer.status === 403 || answer.status === 404) await cache.delete(request.url);
      return answer;
    } catch (problem) {
      const kept = await cache.match(request.url);
      if (kept) return kept;
      throw problem;
    }
  }

  async function asset(request) {
    return (await caches.match(request)) || fetch(request);
  }

  self.addEventListener("fetch", (event) => {
    const { request } = event;
    const url = new URL(request.url);
    if (request.method !== "GET" || url.origin !== self.location.origin) return;
    if (PAGE.test(url.pathname) && !url.search) event.respondWith(page(request));
    else if (kept.assets.includes(url.pathname)) event.respondWith(asset(request));
  });
})();

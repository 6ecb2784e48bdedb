// Shows a page of our own when Pine Bell cannot be reached. Nothing else is kept on a device: what it shows is always asked for anew.
const KEPT = 'pine-bell-offline-1';
const FILES = ['/offline.html', '/bell.svg'];

self.addEventListener('install', (event) => {
  event.waitUntil(caches.open(KEPT).then((cache) => cache.addAll(FILES)));
  self.skipWaiting();
});

self.addEventListener('activate', (event) => {
  event.waitUntil(
    caches
      .keys()
      .then((names) => Promise.all(names.filter((name) => name !== KEPT).map((name) => caches.delete(name))))
      .then(() => self.clients.claim()),
  );
});

self.addEventListener('fetch', (event) => {
  const { request } = event;
  if (request.mode === 'navigate') event.respondWith(fetch(request).catch(() => caches.match('/offline.html')));
  else if (FILES.includes(new URL(request.url).pathname))
    event.respondWith(fetch(request).catch(() => caches.match(request)));
});

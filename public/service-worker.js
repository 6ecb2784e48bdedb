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

// What has come in, told while nothing of Pine Bell is open. Of two with the same tag the later takes the place of the earlier.
self.addEventListener('push', (event) => {
  let notice = { title: 'Pine Bell', body: 'Something has come in.', url: '/', tag: 'leads' };
  try {
    notice = { ...notice, ...event.data.json() };
  } catch {
    // What cannot be read is told all the same: a push that shows nothing is not allowed.
  }
  event.waitUntil(
    self.registration.showNotification(notice.title, {
      body: notice.body,
      tag: notice.tag,
      renotify: true,
      icon: '/bell-192.png',
      badge: '/bell-192.png',
      data: { url: notice.url },
    }),
  );
});

self.addEventListener('notificationclick', (event) => {
  event.notification.close();
  // Only pages of ours: whatever an address says.
  const asked = new URL(event.notification.data?.url ?? '/', self.location.origin);
  const url = asked.origin === self.location.origin ? asked.href : self.location.origin;
  event.waitUntil(
    self.clients.matchAll({ type: 'window', includeUncontrolled: true }).then((open) => {
      const [one] = open;
      return one ? one.focus().then((focused) => focused.navigate(url)) : self.clients.openWindow(url);
    }),
  );
});

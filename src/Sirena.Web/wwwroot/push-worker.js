// Shows a push message, says that it did, and opens its answer page when it is pressed.
self.addEventListener('install', () => self.skipWaiting());
self.addEventListener('activate', e => e.waitUntil(self.clients.claim()));

self.addEventListener('push', e => {
  let message = {};
  try { message = e.data.json(); } catch { message = { title: 'Sirena', text: e.data ? e.data.text() : '' }; }
  const shown = self.registration.showNotification(message.title || 'Sirena', {
    body: message.text || '', tag: message.tag || undefined, renotify: !!message.tag, icon: '/img/icon.svg', data: { url: message.url || '/mine' }, requireInteraction: true,
  });
  // Said whether or not the system lets the notification through: the browser has the message now.
  const said = message.seen && new URL(message.seen, self.location.href).origin === self.location.origin ? fetch(message.seen, { method: 'POST' }) : Promise.resolve();
  e.waitUntil(Promise.allSettled([shown, said]));
});

self.addEventListener('notificationclick', e => {
  e.notification.close();
  e.waitUntil(self.clients.openWindow(e.notification.data.url));
});

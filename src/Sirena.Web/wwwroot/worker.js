// Shows push messages, and keeps the person's own page for when there is no line.
const SHELF = 'sirena', PAGE = '/mine';

self.addEventListener('install', () => self.skipWaiting());
self.addEventListener('activate', e => e.waitUntil(self.clients.claim()));

self.addEventListener('push', e => {
  let message = {};
  try { message = e.data.json(); } catch { message = { title: 'Sirena', text: e.data ? e.data.text() : '' }; }
  const shown = self.registration.showNotification(message.title || 'Sirena', {
    body: message.text || '', tag: message.tag || undefined, renotify: !!message.tag, icon: '/img/icon.svg', data: { url: message.url || '/mine' },
    requireInteraction: true,
  });
  // Said whether or not the system lets the notification through: the browser has the message now.
  const ours = message.seen && new URL(message.seen, self.location.href).origin === self.location.origin;
  const said = ours ? fetch(message.seen, { method: 'POST' }) : Promise.resolve();
  e.waitUntil(Promise.allSettled([shown, said]));
});

self.addEventListener('notificationclick', e => {
  e.notification.close();
  e.waitUntil(self.clients.openWindow(e.notification.data.url));
});

// The page as it last came from the server. One copy: it goes when somebody signs out or the session is over.
const keep = async answer => {
  const headers = new Headers(answer.headers);
  headers.set('X-Sirena-Kept', Date.now());
  await (await caches.open(SHELF)).put(PAGE, new Response(await answer.text(), { headers }));
};

const kept = async () => {
  const copy = await (await caches.open(SHELF)).match(PAGE);
  if (!copy) return null;
  const html = await copy.text();
  return new Response(html.replace('<html ', `<html data-kept="${copy.headers.get('X-Sirena-Kept')}" `), { headers: copy.headers });
};

const page = async e => {
  try {
    const answer = await fetch(e.request);
    if (answer.status >= 500) return await kept() ?? answer;
    if (answer.type === 'opaqueredirect' || answer.status === 401 || answer.status === 403) e.waitUntil(caches.open(SHELF).then(s => s.delete(PAGE)));
    else if (answer.ok && !new URL(e.request.url).search) e.waitUntil(keep(answer.clone()));
    return answer;
  } catch (problem) {
    const copy = await kept();
    if (copy) return copy;
    throw problem;
  }
};

// What the page is drawn with: a file that carries its version is as good from the shelf, any other is asked for first.
const file = async e => {
  const shelf = await caches.open(SHELF), url = new URL(e.request.url), copy = await shelf.match(e.request);
  if (copy && url.searchParams.has('v')) return copy;
  try {
    const answer = await fetch(e.request);
    if (answer.ok) {
      const put = answer.clone();
      e.waitUntil(shelf.delete(url.pathname, { ignoreSearch: true }).then(() => shelf.put(e.request, put)));
    }
    return answer;
  } catch (problem) {
    const old = copy ?? await shelf.match(e.request, { ignoreSearch: true });
    if (old) return old;
    throw problem;
  }
};

self.addEventListener('fetch', e => {
  const url = new URL(e.request.url);
  if (url.origin !== self.location.origin) return;
  if (url.pathname === '/sign-out') e.waitUntil(caches.open(SHELF).then(s => s.delete(PAGE)));
  if (e.request.method !== 'GET') return;
  if (e.request.mode === 'navigate' && url.pathname === PAGE) e.respondWith(page(e));
  else if (/^\/(css|js|vendor|img)\//.test(url.pathname)) e.respondWith(file(e));
});

// The person's own page without a line: it says how old it is, and keeps the answers that are given until they can be sent.
(() => {
  const box = document.getElementById('offline'), root = document.documentElement;
  if (!box || !('serviceWorker' in navigator) || !window.isSecureContext) return;
  navigator.serviceWorker.register('/worker.js').catch(() => { /* then there is no page without a line */ });

  const say = (key, ...values) => values.reduce((text, value, i) => text.replace(`{${i}}`, value), box.dataset[key]);
  const clock = at => new Date(at + Number(document.body.dataset.offset) * 1000).toISOString().slice(11, 16);
  const person = box.dataset.person, name = `sirena-kept-${person}`;
  const read = () => { try { return JSON.parse(localStorage.getItem(name)) ?? []; } catch { return []; } };
  const write = all => { if (all.length) localStorage.setItem(name, JSON.stringify(all)); else localStorage.removeItem(name); };

  // What this page shows came from the shelf.
  const since = Number(root.dataset.kept) || null;
  const age = () => {
    if (!since) return;
    const minutes = Math.round((Date.now() - since) / 60000);
    const words = minutes < 60 ? `${minutes} min`
      : minutes < 2880 ? `${Math.floor(minutes / 60)} h`
      : `${Math.floor(minutes / 1440)} ${box.dataset.days}`;
    box.querySelector('[data-age]').textContent = say('old', clock(since), words);
    box.hidden = false;
  };
  age();
  if (since) setInterval(age, 30000);

  // Each kept answer stands in its card, with the way to take it back.
  const cardOf = id => [...document.querySelectorAll('.mc')].find(c => c.querySelector(`[name="alert"][value="${CSS.escape(id)}"]`));
  const draw = () => {
    document.querySelectorAll('.kept').forEach(k => k.remove());
    document.querySelectorAll('.mc.has-kept').forEach(c => c.classList.remove('has-kept'));
    for (const one of read()) {
      const card = cardOf(one.fields.alert);
      if (!card) continue;
      card.classList.add('has-kept');
      const note = document.createElement('p'), text = document.createElement('span'), back = document.createElement('button');
      note.className = 'said kept';
      note.setAttribute('role', 'status');
      text.textContent = say('keeps', clock(one.at), one.label);
      back.className = 'btn btn-sm';
      back.type = 'button';
      back.textContent = box.dataset.back;
      back.addEventListener('click', () => { write(read().filter(o => o.id !== one.id)); draw(); });
      note.append(text, back);
      card.append(note);
    }
  };

  const told = words => {
    const line = document.createElement('p');
    line.className = 'said';
    line.setAttribute('role', 'status');
    line.textContent = words;
    box.after(line);
  };
  const earlier = JSON.parse(sessionStorage.getItem('sirena-sent') ?? '[]');
  sessionStorage.removeItem('sirena-sent');
  earlier.forEach(told);

  let sending = false;
  const send = async () => {
    if (sending || !read().length) return;
    sending = true;
    const said = [];
    try {
      for (const one of read()) {
        const form = new FormData();
        for (const [key, value] of Object.entries(one.fields)) form.append(key, value);
        form.append('kept', one.at);
        form.append('__RequestVerificationToken', document.querySelector('.mine > input[name="__RequestVerificationToken"]').value);
        const answer = await fetch('/mine', { method: 'POST', body: form, headers: { 'HX-Request': 'true' } });
        if (answer.status === 401) { document.getElementById('ended')?.classList.add('on'); break; }
        if (answer.status >= 500) break;
        said.push(answer.ok ? (await answer.json()).said : say('not', one.label));
        write(read().filter(o => o.id !== one.id));
      }
    } catch { /* still no line */ }
    sending = false;
    if (!said.length) return;
    sessionStorage.setItem('sirena-sent', JSON.stringify(said));
    location.reload();
  };

  // An answer goes by the page's own form; where there is no line, it is kept instead of lost.
  document.addEventListener('submit', async e => {
    const form = e.target;
    if (e.defaultPrevented || !form.closest('#mine-list') || new URL(form.action).origin !== location.origin) return;
    const plain = new URL(form.action).pathname === '/mine' && !new URL(form.action).search;
    if (!plain && !since && navigator.onLine) return;
    e.preventDefault();
    if (!plain) { told(box.dataset.needs); return; }
    const given = new FormData(form, e.submitter), at = Date.now();
    const label = (e.submitter?.textContent ?? '').trim() + (given.get('to') ? `: ${given.get('to')}` : '');
    try {
      if (since || !navigator.onLine) throw new TypeError('no line');
      const answer = await fetch(form.action, { method: 'POST', body: given, redirect: 'manual', keepalive: true, headers: { 'HX-Request': 'true' } });
      if (answer.status === 401) { document.getElementById('ended')?.classList.add('on'); return; }
      if (answer.status >= 500) throw new TypeError('no answer');
      if (answer.type === 'opaqueredirect') location.assign('/mine'); else told(say('not', label));
    } catch {
      const fields = Object.fromEntries([...given].filter(([key]) => key !== '__RequestVerificationToken'));
      write([...read().filter(o => o.fields.alert !== fields.alert), { id: `${at}-${fields.alert}`, at, label, fields }]);
      draw();
    }
  });

  // What the page shows is kept as it changes, not only as it was first drawn.
  let later = null;
  document.addEventListener('htmx:after:swap', () => {
    draw();
    clearTimeout(later);
    later = setTimeout(async () => {
      const shelf = await caches.open('sirena'), copy = await shelf.match('/mine');
      if (!copy || since) return;
      const headers = new Headers(copy.headers);
      headers.set('X-Sirena-Kept', Date.now());
      await shelf.put('/mine', new Response(`<!doctype html>${root.outerHTML}`, { headers }));
    }, 1500);
  });

  // The line is back when the page itself answers; the browser does not always notice.
  const back = async () => {
    if (read().length) { await send(); return; }
    if (!since || document.visibilityState !== 'visible') return;
    try { if ((await fetch('/mine', { cache: 'no-store', headers: { 'X-Sirena-Follow': '1' } })).ok) location.reload(); } catch { /* still no line */ }
  };
  window.addEventListener('online', back);
  setInterval(back, since ? 5000 : 15000);
  draw();
  send();

  // Some browsers offer to put the page among the device's apps.
  const install = document.querySelector('[data-install]'), how = document.querySelector('[data-install-says]');
  window.addEventListener('beforeinstallprompt', e => {
    e.preventDefault();
    if (!install) return;
    install.hidden = false;
    how.hidden = true;
    install.onclick = async () => { await e.prompt(); install.hidden = true; };
  });
  if (install && matchMedia('(display-mode: standalone)').matches) install.closest('.line').hidden = true;
})();

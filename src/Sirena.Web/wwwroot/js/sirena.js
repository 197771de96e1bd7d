// What pages do beyond links and forms: the clock, the jump field, the live strip, guarded changes. Pages work without it.
(() => {
  const body = document.body;
  const served = Number(body.dataset.now), loaded = performance.now(), offset = Number(body.dataset.offset) * 1000;
  const clock = document.getElementById('clock');
  const still = Math.abs(served - Date.now()) > 36e5; // a fixed clock, for pictures
  const time = () => new Date(served + (still ? 0 : performance.now() - loaded) + offset).toISOString().slice(11, 19);
  if (clock) setInterval(() => { clock.textContent = time(); }, 1000);

  // Countdowns to a fuse's next step.
  const left = ms => {
    const s = Math.max(0, Math.round(ms / 1000));
    return s >= 3600 ? `${Math.floor(s / 3600)} h ${Math.floor(s % 3600 / 60)}` : `${Math.floor(s / 60)}:${String(s % 60).padStart(2, '0')}`;
  };
  const count = () => document.querySelectorAll('[data-until]').forEach(t => {
    t.textContent = (t.dataset.in ?? 'in {0}').replace('{0}', left(Number(t.dataset.until) - served - (performance.now() - loaded)));
  });
  if (!still) { setInterval(count, 1000); count(); }

  document.addEventListener('keydown', e => {
    const typing = /^(INPUT|TEXTAREA|SELECT)$/.test(e.target.tagName);
    if (e.key === '/' && !typing) { e.preventDefault(); document.getElementById('jump')?.focus(); }
    if (e.key === 'Escape') document.querySelectorAll('details.menu[open]').forEach(d => { d.open = false; });
  });
  document.addEventListener('click', e => {
    // The light is the browser's own: kept in a cookie, so that the next page comes in it.
    const light = e.target.closest('[data-light-choice]');
    if (light) {
      const choice = light.dataset.lightChoice;
      document.cookie = `sirena-light=${choice}; path=/; samesite=lax; max-age=${choice ? 31536000 : 0}`;
      if (choice) document.documentElement.dataset.light = choice; else delete document.documentElement.dataset.light;
      light.parentElement.querySelectorAll('button').forEach(b => b.setAttribute('aria-pressed', b === light));
    }
    document.querySelectorAll('details.menu[open]').forEach(d => { if (!d.contains(e.target)) d.open = false; });
    const show = e.target.closest('[data-show]');
    if (show) {
      const f = document.getElementById(show.dataset.show);
      [f.type, show.textContent] = f.type === 'password' ? ['text', 'hide'] : ['password', 'show'];
    }
    const row = e.target.closest('tr[data-open]');
    if (row && !e.target.closest('a,button,input,select')) row.querySelector('a[data-look]')?.click();
  });

  // A page drawn beside a form goes by a submission of that form into a frame; once the form itself is on its way, one more would take its place.
  let leaving = new WeakSet();
  window.addEventListener('submit', e => { if (!e.defaultPrevented && !e.submitter?.formTarget) leaving.add(e.target); });
  window.addEventListener('pageshow', () => { leaving = new WeakSet(); });
  window.drawBeside = (form, button) => { if (!leaving.has(form)) form.requestSubmit(button); };

  // Filters apply at once. What is typed or chosen in stays under the fingers: only what stands around it is drawn anew.
  const around = (old, fresh, field, same) => {
    const mine = [...old.children].find(c => c.contains(field)), theirs = [...fresh.children].find(c => c.contains(same));
    for (const child of [...old.children]) if (child !== mine) child.remove();
    let before = true;
    for (const child of [...fresh.children]) {
      if (child === theirs) { before = false; continue; }
      const put = document.adoptNode(child);
      if (before) mine.before(put); else old.append(put);
    }
    if (mine !== field) around(mine, theirs, field, same);
  };
  let typing, turn = 0; // what is typed or moved has a turn of its own: the answer to what stood before does not put that back
  const redraw = async field => {
    const form = field.form, mine = ++turn, main = document.querySelector('main');
    if (form.method !== 'get') { form.requestSubmit(); return; }
    const address = (form.getAttribute('action') ?? location.pathname) + '?' + new URLSearchParams([...new FormData(form)].filter(f => f[1] !== ''));
    // The field on the fresh page: by its id, or by its place among those of its name, of which there may be several.
    const named = page => [...page.querySelectorAll(`main [name="${field.name}"]`)].filter(f => f.type === field.type);
    const place = named(document).indexOf(field);
    let page;
    try {
      const answer = await fetch(address);
      if (mine !== turn) return;
      if (!answer.ok || answer.redirected) { location.assign(address); return; }
      page = new DOMParser().parseFromString(await answer.text(), 'text/html');
    } catch { return; }
    const same = field.id ? page.getElementById(field.id) : named(page)[place];
    if (mine !== turn) return;
    if (!same || !main.contains(field)) { location.assign(address); return; }
    around(main, page.querySelector('main'), field, same);
    document.title = page.title;
    history.replaceState(null, '', address);
    window.htmx?.process(main);
    document.dispatchEvent(new CustomEvent('htmx:after:swap'));
  };
  const soon = (field, milliseconds) => { turn++; clearTimeout(typing); typing = setTimeout(() => redraw(field), milliseconds); };
  document.addEventListener('change', e => { if (e.target.matches('[data-at-once]')) { clearTimeout(typing); redraw(e.target); } });
  document.addEventListener('input', e => { if (e.target.matches('[data-at-once]')) turn++; if (e.target.matches('[data-find]')) soon(e.target, 250); });

  // What a day or time that is typed in words is understood as.
  let asked;
  const understand = async field => {
    const is = document.getElementById(`${field.id}-is`), text = field.value.trim();
    if (!is) return;
    is.dataset.zone ??= is.textContent;
    if (!text) { is.textContent = is.dataset.zone; is.className = 'when-is'; field.setCustomValidity(''); return; }
    try {
      const answer = await fetch(`/when?${new URLSearchParams({ text, kind: field.dataset.when, lang: document.documentElement.lang })}`);
      if (!answer.ok || field.value.trim() !== text) return;
      const said = await answer.json();
      is.textContent = said.words;
      is.className = said.known ? 'when-is' : 'when-is flare';
      field.setCustomValidity(said.known ? '' : said.words);
    } catch { /* the server says it when the form is sent */ }
  };
  document.addEventListener('input', e => {
    if (!e.target.matches('[data-when]')) return;
    e.target.setCustomValidity('');
    clearTimeout(asked);
    asked = setTimeout(() => understand(e.target), 250);
  });
  document.addEventListener('focusin', e => { if (e.target.matches('[data-when]')) e.target.select(); });

  // A time that is moved through the week goes into its field, and the page is asked again as it moves.
  document.addEventListener('input', e => {
    if (!e.target.matches('[data-slide]')) return;
    const at = new Date(e.target.dataset.slide + 'T00:00:00Z');
    at.setUTCMinutes(at.getUTCMinutes() + Number(e.target.value) * 15);
    e.target.form.querySelector('[data-when]').value = at.toISOString().slice(0, 16).replace('T', ' ');
    soon(e.target, 120);
  });

  // Asking before what cannot be taken back, and before leaving what is not saved.
  document.addEventListener('submit', e => {
    const ask = e.submitter?.dataset.ask || e.target.dataset.ask;
    if (ask && !window.confirm(ask)) { e.preventDefault(); e.stopPropagation(); }
  }, true);
  let dirty = false;
  const guarded = document.querySelector('form[data-guard]');
  if (guarded) {
    dirty = guarded.dataset.guard === 'dirty';
    guarded.addEventListener('input', () => { dirty = true; });
    guarded.addEventListener('submit', e => { if (!e.submitter?.formTarget) dirty = false; });
    window.addEventListener('beforeunload', e => { if (dirty) e.preventDefault(); });
  }

  // A session that ended: what is typed stays, and the page says how to go on.
  const ended = is => document.getElementById('ended')?.classList.toggle('on', is);
  document.addEventListener('htmx:response:error', e => { if (e.detail.ctx?.response?.status === 401) ended(true); });
  document.addEventListener('htmx:after:swap', () => ended(false));

  // The live strip: one stream per browser, kept by a shared worker.
  const strip = document.getElementById('strip');
  const words = of => [...of.children].filter(c => !c.matches('.calm')).map(c => c.textContent.replace(/\s+/g, ' ').trim())
    .join(', ').replace(/, oldest .*?(?=,|$)/, '');
  if (strip && window.SharedWorker) {
    const port = new SharedWorker('/js/live.js').port;
    let busy = false, again = false, drawn = document.body.dataset.news;
    // The link under the keys stays under them, what was opened stays open; what is new is said aloud once a minute at most.
    const aloud = document.getElementById('strip-said');
    let said = words(strip), saidAt = 0;
    const redrawStrip = html => {
      const at = strip.contains(document.activeElement) ? document.activeElement.getAttribute('href') ?? 'rest' : null;
      const open = strip.querySelector('.rest[open]');
      strip.innerHTML = html;
      const rest = strip.querySelector('.rest');
      if (open && rest) rest.open = true;
      if (at) (at === 'rest' ? rest?.querySelector('summary') : strip.querySelector(`a[href="${CSS.escape(at)}"]`) ?? strip.querySelector('a'))?.focus();
      const now = words(strip);
      if (now !== said && Date.now() - saidAt > 60_000) { said = aloud.textContent = now; saidAt = Date.now(); }
    };
    const refresh = async () => {
      if (document.hidden) return;
      if (busy) { again = true; return; }
      busy = true;
      try {
        const answer = await fetch('/strip', { redirect: 'error', headers: { 'HX-Request': 'true' } });
        if (answer.status === 401 || answer.ok) ended(answer.status === 401);
        if (answer.ok && !answer.redirected) redrawStrip(await answer.text());
        document.dispatchEvent(new CustomEvent('sirena:news'));
      } catch { /* the stream says when the link is lost */ } finally { busy = false; if (again) { again = false; refresh(); } }
    };
    port.onmessage = e => {
      const lost = document.getElementById('lost');
      if (e.data.startsWith('at ') && e.data !== `at ${drawn}`) { drawn = e.data.slice(3); refresh(); }
      if (e.data === 'lost' && !lost.classList.contains('on')) { document.getElementById('lost-since').textContent = time(); lost.classList.add('on'); }
      if (e.data === 'open') lost.classList.remove('on');
    };
    port.start();
    const tell = () => port.postMessage(document.hidden ? 'hidden' : 'visible');
    document.addEventListener('visibilitychange', tell);
    window.addEventListener('pagehide', () => port.postMessage('gone'));
    tell();
  }

  // What is drawn anew takes the keys' place with it: it goes to the same thing, or, where that has gone, to what stood next to it.
  const reach = 'a[href], button, input, select, textarea, summary, [tabindex="0"], [contenteditable]';
  let places = [];
  document.addEventListener('htmx:before:swap', () => {
    const here = document.activeElement;
    if (!here || here === document.body || !document.querySelector('main')?.contains(here)) { places = []; return; }
    const all = [...document.querySelectorAll(`main :is(${reach})`)], at = all.indexOf(here);
    const near = all.map((e, i) => [e.id, i < at ? at - i + .5 : i - at]).filter(([id]) => id).sort((a, b) => a[1] - b[1]);
    places = near.slice(0, 60).map(([id]) => id);
  });
  document.addEventListener('htmx:after:swap', () => {
    const wanted = places;
    places = [];
    if (document.activeElement && document.activeElement !== document.body) return;
    const fit = wanted.map(id => document.getElementById(id)).find(e => e?.checkVisibility() && !e.disabled);
    fit?.focus({ preventScroll: true });
  });

  // What the person's own page has drawn has landed on the screen.
  const seen = () => {
    const list = document.querySelector('[data-seen]');
    const ids = list ? [...list.querySelectorAll('[data-delivery]')].map(e => e.dataset.delivery).filter(Boolean) : [];
    if (!ids.length || document.hidden) return;
    const form = new FormData();
    ids.forEach(id => form.append('seen', id));
    form.append('__RequestVerificationToken', document.querySelector('.mine > input[name="__RequestVerificationToken"]').value);
    const clear = a => { if (a.ok) list.querySelectorAll('[data-delivery]').forEach(e => e.removeAttribute('data-delivery')); };
    fetch(list.dataset.seen, { method: 'POST', body: form }).then(clear);
  };
  seen();
  document.addEventListener('htmx:after:swap', seen);
  document.addEventListener('visibilitychange', seen);

  // A list that follows the news while nothing is opened or typed in it.
  const following = document.querySelector('[data-follow]');
  if (following && window.htmx) {
    let last = 0, later = null;
    const busy = list => list.querySelector('tr.opn, details[open]:not(.whole)')
      || (list.contains(document.activeElement) && document.activeElement.matches('input, select, textarea'));
    // A list of keyed rows gets only those that differ: it names what it has, and only what changed is drawn.
    const have = list => {
      const rows = [...list.querySelectorAll('[data-print][data-alert]')];
      return rows.length ? { 'X-Sirena-Have': rows.map(r => `${r.dataset.alert.replaceAll('-', '').slice(-12)}=${r.dataset.print}`).join(' ') } : {};
    };
    const patch = (old, fresh) => {
      const ids = new Set([...fresh.children].map(c => c.id));
      for (const child of [...old.children]) if (!ids.has(child.id)) child.remove();
      let at = old.firstElementChild;
      for (const next of [...fresh.children]) {
        const known = next.id && document.getElementById(next.id);
        const same = next.dataset.print !== undefined && next.dataset.print === known?.dataset.print && !next.dataset.alert;
        const keep = known && old.contains(known) && (next.hasAttribute('data-same') || same);
        if (keep && known === at) { at = at.nextElementSibling; continue; }
        const put = keep ? known : document.adoptNode(next);
        if (!keep && known && known === at) { at = at.nextElementSibling; known.replaceWith(put); window.htmx.process(put); continue; }
        if (!keep && known) known.remove();
        old.insertBefore(put, at);
        if (!keep) window.htmx.process(put);
      }
      while (at) { const gone = at; at = at.nextElementSibling; gone.remove(); }
    };
    let whole = false;
    document.addEventListener('sirena:whole', () => { whole = true; document.dispatchEvent(new CustomEvent('sirena:news')); });
    const follow = async () => {
      later = null;
      const list = document.querySelector('[data-follow]');
      if (!list) return;
      if (busy(list)) { later = setTimeout(follow, 2000); return; }
      // A button under the pointer does not move away from it for some seconds; a row does not at all, the page scrolls with it.
      if (list.querySelector('[data-calm] :hover') && Date.now() - last < 6000) { later = setTimeout(follow, 500); return; }
      last = Date.now();
      let fresh = null, parsing = 0;
      try {
        const headers = { 'HX-Request': 'true', 'X-Sirena-Follow': 'true', ...(whole ? {} : have(list)) };
        const answer = await fetch(window.location.pathname + window.location.search, { redirect: 'error', headers });
        if (answer.status === 401) ended(true);
        if (!answer.ok || answer.redirected) return;
        const text = await answer.text(), begin = performance.now();
        fresh = new DOMParser().parseFromString(text, 'text/html').getElementById(list.id);
        parsing = performance.now() - begin;
      } catch { return; }
      // Something may have been opened or begun meanwhile: then what came waits for the next time.
      if (!fresh || !list.isConnected) return;
      if (busy(list)) { later ??= setTimeout(follow, 2000); return; }
      const begin = performance.now();
      const held = list.contains(document.activeElement) ? document.activeElement : null;
      const home = held?.closest('[id]')?.id, under = list.querySelector('[data-alert]:hover'), top = under?.getBoundingClientRect().top;
      // What was just said stays for some seconds.
      const said = list.querySelector('.said[role=status]');
      const keeps = said && performance.now() - loaded < 12000;
      const board = list.querySelector('.board'), drawn = fresh.querySelector('.board');
      if (board && drawn && !whole) {
        for (const part of ['watch-head', 'watch-side']) document.getElementById(part)?.replaceWith(document.adoptNode(fresh.querySelector('#' + part)));
        patch(board, drawn);
        if (said && !keeps) said.remove();
      } else {
        if (keeps && !fresh.querySelector('.said')) fresh.querySelector('.head')?.after(said);
        for (const d of list.querySelectorAll('details.whole[open]')) { const same = fresh.querySelector('#' + CSS.escape(d.id)); if (same) same.open = true; }
        list.replaceWith(document.adoptNode(fresh));
        window.htmx.process(fresh);
      }
      whole = false;
      if (held) {
        const there = [...(document.getElementById(home)?.querySelectorAll('button, a, summary') ?? [])];
        there.find(e => e.value === held.value && e.textContent === held.textContent)?.focus({ preventScroll: true });
      }
      const row = under && document.getElementById(under.id);
      if (row) window.scrollBy({ top: row.getBoundingClientRect().top - top, behavior: 'instant' });
      document.dispatchEvent(new CustomEvent('htmx:after:swap'));
      document.dispatchEvent(new CustomEvent('sirena:drawn', { detail: parsing + performance.now() - begin }));
    };
    // At most every second; the last piece of news is never left out.
    document.addEventListener('sirena:news', () => { later ??= setTimeout(follow, Math.max(0, last + Number(following.dataset.gap ?? 1000) - Date.now())); });
  }
})();

// The wording editor: fields stand as words, the preview follows what is typed. Without a script the plain text with its braces is edited.
(() => {
  const form = document.getElementById('wording');
  if (!form) return;
  const names = JSON.parse(form.dataset.fields);
  const areas = [...form.querySelectorAll('textarea[data-part]')].filter(a => a.dataset.part !== 'mail.html');
  const editors = new Map();
  let current = null;

  const word = tag => {
    const path = tag.replace(/^[#^/]/, '').trim(), name = path === '.' ? 'this item' : names[path] ?? path.replace(/^order\.extra\./, '').replaceAll('.', ' ');
    return tag[0] === '#' ? `if ${name}:` : tag[0] === '^' ? `if no ${name}:` : tag[0] === '/' ? 'end' : name;
  };
  const chip = tag => {
    const e = document.createElement('span');
    e.className = /^[#^/]/.test(tag) ? 'fld sec' : 'fld';
    e.contentEditable = 'false';
    e.dataset.tag = tag;
    e.textContent = word(tag);
    e.title = `{{${tag}}}`;
    return e;
  };
  const fill = (rich, text) => {
    rich.replaceChildren();
    for (const part of text.split(/(\{\{[^{}]*\}\})/)) {
      const m = /^\{\{([^{}]*)\}\}$/.exec(part);
      if (m) rich.append(chip(m[1].trim())); else if (part) rich.append(part);
    }
  };
  const read = node => [...node.childNodes].map(n => n.nodeType === 3 ? n.data : n.dataset?.tag !== undefined ? `{{${n.dataset.tag}}}` : n.nodeName === 'BR' ? '\n' : (n.nodeName === 'DIV' && n.previousSibling ? '\n' : '') + read(n)).join('').replaceAll('\u200b', '');
  const changed = (area, rich) => { area.value = read(rich); area.dispatchEvent(new Event('input', { bubbles: true })); };

  for (const area of areas) {
    const rich = document.createElement('div');
    rich.className = 'form-control rich';
    rich.contentEditable = area.readOnly ? 'false' : 'plaintext-only';
    rich.setAttribute('role', 'textbox');
    rich.setAttribute('aria-multiline', area.rows > 1);
    rich.setAttribute('aria-label', form.querySelector(`label[for="${area.id}"]`).textContent);
    rich.style.minHeight = `${area.rows * 23 + 12}px`;
    fill(rich, area.value);
    area.hidden = true;
    area.after(rich);
    editors.set(area.dataset.part, { area, rich });
    rich.addEventListener('input', () => {
      // What was typed with braces becomes a word as soon as it is closed.
      if (/\{\{[^{}]+\}\}/.test([...rich.childNodes].filter(n => n.nodeType === 3).map(n => n.data).join('\n'))) { const text = read(rich); fill(rich, text); const s = getSelection(); s.selectAllChildren(rich); s.collapseToEnd(); }
      changed(area, rich);
    });
    rich.addEventListener('keydown', e => { if (e.key === 'Enter' && area.rows === 1) e.preventDefault(); });
    rich.addEventListener('focus', () => { current = { area, rich }; });
  }
  for (const area of form.querySelectorAll('textarea[data-part="mail.html"]')) area.addEventListener('focus', () => { current = { area, rich: null }; });

  const insert = path => {
    const at = current && !current.area.closest('[hidden][data-pane]') ? current : (() => { const a = form.querySelector('[data-pane]:not([hidden]) textarea'); return editors.get(a.dataset.part) ?? { area: a, rich: null }; })();
    if (!at.rich) {
      at.area.setRangeText(`{{${path}}}`, at.area.selectionStart, at.area.selectionEnd, 'end');
      at.area.dispatchEvent(new Event('input', { bubbles: true }));
      return;
    }
    const selection = getSelection(), e = chip(path);
    if (selection.rangeCount && at.rich.contains(selection.anchorNode)) {
      const range = selection.getRangeAt(0);
      range.deleteContents();
      range.insertNode(e);
      range.setStartAfter(e);
      range.collapse(true);
      selection.removeAllRanges();
      selection.addRange(range);
    } else at.rich.append(e);
    changed(at.area, at.rich);
  };
  document.getElementById('fields').addEventListener('mousedown', e => { if (e.target.closest('[data-path]')) e.preventDefault(); });
  document.getElementById('fields').addEventListener('click', e => { const b = e.target.closest('[data-path]'); if (b) { insert(b.dataset.path); b.classList.add('used'); } });

  const find = document.getElementById('field-find');
  find.addEventListener('input', () => {
    const wanted = find.value.toLowerCase();
    document.querySelectorAll('#fields [data-path]').forEach(b => { b.hidden = wanted && !(b.textContent + ' ' + b.dataset.path).toLowerCase().includes(wanted); });
  });
  find.addEventListener('keydown', e => { if (e.key === 'Enter') { e.preventDefault(); document.querySelector('#fields [data-path]:not([hidden])')?.click(); } });

  document.querySelector('[data-submit]')?.addEventListener('change', e => e.target.form.requestSubmit());

  // Tabs.
  const frame = form.querySelector('iframe[name=shown]');
  form.querySelectorAll('[data-tab]').forEach(tab => tab.addEventListener('click', () => {
    form.elements.tab.value = tab.dataset.tab;
    form.querySelectorAll('[data-tab]').forEach(t => t.setAttribute('aria-selected', t === tab));
    form.querySelectorAll('[data-pane]').forEach(p => { p.hidden = p.dataset.pane !== tab.dataset.tab; });
    frame.hidden = tab.dataset.tab !== 'mail';
    draw();
  }));

  // The preview: at most one request at a time, the last text is never left out.
  let view = 'wide', busy = false, again = false, token = form.querySelector('input[name=__RequestVerificationToken]')?.value;
  const marks = preview => {
    const mistakes = JSON.parse(preview.dataset.mistakes), missing = new Set(JSON.parse(preview.dataset.missing));
    form.querySelectorAll('.mist').forEach(m => m.replaceChildren(...mistakes.filter(x => x.part === m.dataset.for).slice(0, 3).map(x => { const p = document.createElement('p'); p.className = 'flare small'; p.textContent = x.problem; return p; })));
    for (const [part, { rich }] of editors) {
      const bad = mistakes.filter(x => x.part === part).map(x => /'([^']+)'/.exec(x.problem)?.[1]);
      rich.querySelectorAll('.fld').forEach(f => {
        const path = f.dataset.tag.replace(/^[#^/]/, '');
        f.classList.toggle('bad', bad.includes(path));
        f.classList.toggle('gone', missing.has(path));
      });
    }
  };
  const page = () => {
    if (frame.hidden) return;
    const button = document.getElementById('draw-page');
    button.value = view === 'dark';
    form.requestSubmit(button);
  };
  const draw = async () => {
    if (busy) { again = true; return; }
    busy = true;
    try {
      const answer = await fetch(form.action + '&handler=Preview', { method: 'POST', headers: { 'HX-Request': 'true' }, body: new FormData(form) });
      if (answer.ok) {
        const box = document.createElement('div');
        box.innerHTML = await answer.text();
        const fresh = box.querySelector('#preview');
        document.getElementById('preview').replaceWith(fresh);
        marks(fresh);
        look();
        page();
      }
    } finally { busy = false; if (again) { again = false; draw(); } }
  };
  const look = () => {
    form.querySelectorAll('[data-view]').forEach(b => b.classList.toggle('active', b.dataset.view === view));
    frame.className = `shownp ${view}`;
    const text = form.querySelector('.textp');
    if (text) { text.hidden = view !== 'text'; frame.hidden = view === 'text'; }
  };
  document.addEventListener('click', e => { const b = e.target.closest('[data-view]'); if (b) { view = b.dataset.view; look(); page(); } });
  let soon = null;
  form.addEventListener('input', e => { if (e.target.matches('textarea')) { clearTimeout(soon); soon = setTimeout(draw, 40); } });
  const order = document.getElementById('order');
  let wait = null;
  order.addEventListener('input', () => {
    clearTimeout(wait);
    wait = setTimeout(async () => {
      const found = await (await fetch(`/wording?handler=Orders&find=${encodeURIComponent(order.value)}`)).json();
      document.getElementById('orders-found').replaceChildren(...found.map(o => { const e = document.createElement('option'); e.value = o.number; e.label = o.label; return e; }));
      if (found.some(o => o.number === order.value)) choose();
    }, 200);
  });
  const choose = () => { const to = new URL(window.location.href); to.searchParams.set('order', order.value); to.searchParams.set('tab', form.elements.tab.value); to.searchParams.set('person', form.elements.person.value); to.searchParams.set('event', form.elements.event.value); refresh(to); };
  // Another order or reader: the values and the preview are drawn anew, what was typed stays.
  const refresh = async to => {
    const doc = new DOMParser().parseFromString(await (await fetch(to)).text(), 'text/html');
    for (const id of ['fields', 'when']) document.getElementById(id).innerHTML = doc.getElementById(id).innerHTML;
    history.replaceState(null, '', to);
    form.action = doc.getElementById('wording').getAttribute('action');
    document.getElementById('draw-page').formAction = doc.getElementById('draw-page').formAction;
    draw();
  };
  form.elements.person.addEventListener('change', choose);
  form.elements.event.addEventListener('change', choose);
  marks(document.getElementById('preview'));
  look();
  page();
})();

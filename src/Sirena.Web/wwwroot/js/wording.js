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
  const said = n => n.nodeType === 3 ? n.data
    : n.dataset?.tag !== undefined ? `{{${n.dataset.tag}}}`
    : n.nodeName === 'BR' ? '\n'
    : (n.nodeName === 'DIV' && n.previousSibling ? '\n' : '') + read(n);
  const read = node => [...node.childNodes].map(said).join('').replaceAll('\u200b', '');
  const changed = (area, rich) => { area.value = read(rich); area.dispatchEvent(new Event('input', { bubbles: true })); };

  // The field in place of what a range holds, the cursor behind it.
  const put = (range, path) => {
    const selection = getSelection(), e = chip(path);
    range.deleteContents();
    range.insertNode(e);
    range.setStartAfter(e);
    range.collapse(true);
    selection.removeAllRanges();
    selection.addRange(range);
  };
  const byName = window.fieldList(put, changed);

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
      if (/\{\{[^{}]+\}\}/.test([...rich.childNodes].filter(n => n.nodeType === 3).map(n => n.data).join('\n'))) {
        fill(rich, read(rich));
        const s = getSelection();
        s.selectAllChildren(rich);
        s.collapseToEnd();
      }
      changed(area, rich);
      byName.ask(area, rich);
    });
    rich.addEventListener('blur', byName.leave);
    rich.addEventListener('keydown', byName.key);
    rich.addEventListener('keydown', e => { if (e.key === 'Enter' && area.rows === 1) e.preventDefault(); });
    rich.addEventListener('focus', () => { current = { area, rich }; });
  }
  for (const area of form.querySelectorAll('textarea[data-part="mail.html"]')) area.addEventListener('focus', () => { current = { area, rich: null }; });

  // Facts: the last row is always empty, rows move and go, a field that is clicked goes into the value that was written last.
  const facts = document.getElementById('facts');
  const rows = () => [...facts.querySelectorAll('li')];
  const filled = row => [...row.querySelectorAll('input')].some(i => i.value.trim());
  const tail = () => {
    if (!facts || rows().some(r => r.querySelector('[readonly]'))) return;
    if (filled(rows().at(-1)) && rows().length < 40) {
      const row = rows().at(-1).cloneNode(true);
      row.querySelectorAll('input').forEach(i => { i.value = ''; });
      row.querySelector('select').selectedIndex = 0;
      row.querySelector('.here').textContent = '';
      facts.append(row);
    }
    rows().forEach((row, i) => row.querySelectorAll('[aria-label]').forEach(e =>
      e.setAttribute('aria-label', e.getAttribute('aria-label').replace(/fact \d+/i, f => f.replace(/\d+/, i + 1)))));
  };
  const drawnFacts = values => {
    if (!facts) return;
    rows().filter(filled).forEach((row, i) => {
      const here = row.querySelector('.here');
      here.textContent = values[i] ?? (row.querySelector('[name="f.value"]').value ? 'empty here, left out' : '');
      here.title = values[i] ?? '';
      here.classList.toggle('gone', values[i] == null);
    });
  };
  facts?.addEventListener('input', tail);
  facts?.addEventListener('focusin', e => { if (e.target.name === 'f.value') current = { area: e.target, rich: null }; });
  facts?.addEventListener('click', e => {
    const button = e.target.closest('[data-move]');
    if (!button) return;
    const row = button.closest('li'), by = Number(button.dataset.move), other = by < 0 ? row.previousElementSibling : row.nextElementSibling;
    if (by === 0) {
      (other ?? row.previousElementSibling)?.querySelector('input').focus();
      if (rows().length > 1) row.remove();
      else row.querySelectorAll('input').forEach(i => { i.value = ''; });
    }
    else if (other && filled(other)) { if (by < 0) other.before(row); else other.after(row); button.focus(); }
    tail();
    facts.dispatchEvent(new Event('input', { bubbles: true }));
  });
  form.querySelector('.factf [data-path]')?.addEventListener('click', () => { if (current?.area.name === 'f.value') current = null; insert('facts'); });

  const insert = path => {
    if (current?.area.name === 'f.value') {
      current.area.value = path;
      current.area.dispatchEvent(new Event('input', { bubbles: true }));
      return;
    }
    const shown = () => {
      const a = form.querySelector('[data-pane]:not([hidden]) textarea');
      return editors.get(a.dataset.part) ?? { area: a, rich: null };
    };
    const at = current && !current.area.closest('[hidden][data-pane]') ? current : shown();
    if (!at.rich) {
      at.area.setRangeText(`{{${path}}}`, at.area.selectionStart, at.area.selectionEnd, 'end');
      at.area.dispatchEvent(new Event('input', { bubbles: true }));
      return;
    }
    const selection = getSelection();
    if (selection.rangeCount && at.rich.contains(selection.anchorNode)) put(selection.getRangeAt(0), path); else at.rich.append(chip(path));
    changed(at.area, at.rich);
  };
  document.getElementById('fields').addEventListener('mousedown', e => { if (e.target.closest('[data-path]')) e.preventDefault(); });
  document.getElementById('fields').addEventListener('click', e => {
    const b = e.target.closest('[data-path]');
    if (!b) return;
    insert(b.dataset.path);
    b.classList.add('used');
  });

  const find = document.getElementById('field-find');
  find.addEventListener('input', () => {
    const wanted = find.value.toLowerCase();
    document.querySelectorAll('#fields [data-path]').forEach(b => {
      b.hidden = wanted && !(b.textContent + ' ' + b.dataset.path).toLowerCase().includes(wanted);
    });
  });
  find.addEventListener('keydown', e => {
    if (e.key !== 'Enter') return;
    e.preventDefault();
    document.querySelector('#fields [data-path]:not([hidden])')?.click();
  });

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
    const line = x => {
      const p = document.createElement('p');
      p.className = 'flare small';
      p.textContent = x.part === 'facts' ? `Fact ${x.line}: ${x.problem}` : x.problem;
      return p;
    };
    form.querySelectorAll('.mist').forEach(m => m.replaceChildren(...mistakes.filter(x => x.part === m.dataset.for).slice(0, 3).map(line)));
    drawnFacts(JSON.parse(preview.dataset.facts));
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
    window.drawBeside(form, button);
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
  form.addEventListener('input', e => { if (e.target.matches('textarea, #facts, #facts *')) { clearTimeout(soon); soon = setTimeout(draw, 40); } });
  const order = document.getElementById('order');
  let wait = null;
  order.addEventListener('input', () => {
    clearTimeout(wait);
    wait = setTimeout(async () => {
      const found = await (await fetch(`/wording?handler=Orders&find=${encodeURIComponent(order.value)}`)).json();
      document.getElementById('orders-found').replaceChildren(...found.map(o =>
        Object.assign(document.createElement('option'), { value: o.number, label: o.label })));
      if (found.some(o => o.number === order.value)) choose();
    }, 200);
  });
  const choose = () => {
    const to = new URL(window.location.href);
    to.searchParams.set('order', order.value);
    for (const name of ['tab', 'person', 'event']) to.searchParams.set(name, form.elements[name].value);
    refresh(to);
  };
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

// Long lists are found in by typing: a combobox (ARIA 1.2) over the select that stands there, which keeps its name, its value and its events.
(() => {
  const LONG = 40, AT_ONCE = 8, AT_MOST = 40;
  const plain = text => text.normalize('NFD').replace(/\p{M}/gu, '').toLowerCase();
  const parts = text => plain(text).split(/[^\p{L}\p{N}]+/u).filter(Boolean);
  const fetched = new Map();
  const rest = address => {
    if (!fetched.has(address)) fetched.set(address, fetch(address).then(a => (a.ok ? a.json() : []), () => []));
    return fetched.get(address);
  };
  const places = new WeakMap();
  let held = null, count = 0;

  const make = (tag, of = {}, ...inside) => {
    const e = document.createElement(tag);
    for (const [name, value] of Object.entries(of)) e.setAttribute(name, value);
    e.append(...inside);
    return e;
  };

  // The part of a word that was typed is underlined.
  const marked = (text, words) => {
    const at = words.map(w => {
      const m = new RegExp(`(^|[^\\p{L}\\p{N}])${w}`, 'u').exec(plain(text));
      return m ? [m.index + m[1].length, w.length] : null;
    }).filter(Boolean)[0];
    if (!at || plain(text).length !== text.length) return [text];
    const [from, to] = [at[0], at[0] + at[1]];
    return [text.slice(0, from), make('u', {}, text.slice(from, to)), text.slice(to)];
  };

  const dress = select => {
    const more = (select.dataset.rest ? select : select.querySelector('optgroup[data-rest]'))?.dataset.rest;
    if (select.nextElementSibling?.matches('.pickb') || select.multiple || select.size > 1 || (!more && select.options.length <= LONG)) return;
    const id = `${select.id || select.name || `pick${++count}`}-pick`;
    const label = select.dataset.label ??= select.getAttribute('aria-label') ?? select.labels[0]?.textContent.trim() ?? '';
    const list = make('div', { id: `${id}-list`, role: 'listbox', class: 'pickl', popover: 'manual', 'aria-label': label });
    const tells = make('span', { class: 'vh', role: 'status' });
    const field = make('input', {
      id, type: 'text', class: `${select.className.replace('form-select', 'form-control')} pickf`, role: 'combobox', autocomplete: 'off', spellcheck: 'false',
      'aria-autocomplete': 'list', 'aria-expanded': 'false', 'aria-controls': `${id}-list`, 'aria-label': label,
    });
    Object.assign(field, { required: select.required, disabled: select.disabled });
    for (const l of select.labels) l.htmlFor = id;
    select.required = false;
    select.hidden = true;
    select.after(make('span', { class: 'pickb' }, field, list, tells));

    let turn = 0, at = -1, options = [];
    const none = () => [...select.options].find(o => o.value === '');
    const chosen = () => {
      const o = select.selectedOptions[0];
      field.value = !o || o.value === '' ? '' : o.text.trim();
      field.placeholder = none()?.text ?? '';
    };
    const isOpen = () => list.matches(':popover-open');
    const close = () => {
      turn++;
      if (isOpen()) list.hidePopover();
      field.setAttribute('aria-expanded', 'false');
      field.removeAttribute('aria-activedescendant');
      at = -1;
    };
    const choose = option => {
      const before = select.value;
      if (![...select.options].some(o => o.value === option.value)) select.append(new Option(option.text, option.value));
      select.value = option.value;
      chosen();
      close();
      if (select.value !== before) for (const kind of ['input', 'change']) select.dispatchEvent(new Event(kind, { bubbles: true }));
    };
    const mark = to => {
      options[at]?.element.setAttribute('aria-selected', 'false');
      at = options.length ? (to + options.length) % options.length : -1;
      const e = options[at]?.element;
      if (!e) { field.removeAttribute('aria-activedescendant'); return; }
      e.setAttribute('aria-selected', 'true');
      e.scrollIntoView({ block: 'nearest' });
      field.setAttribute('aria-activedescendant', e.id);
    };
    const place = () => {
      const box = field.getBoundingClientRect(), below = innerHeight - box.bottom, up = below < 220 && box.top > below;
      list.style.left = `${Math.max(8, Math.min(box.left, innerWidth - Math.max(box.width, 300) - 8))}px`;
      list.style.minWidth = `${Math.max(box.width, Math.min(300, innerWidth - 16))}px`;
      list.style.maxHeight = `${Math.min(360, (up ? box.top : below) - 12)}px`;
      list.style.top = up ? 'auto' : `${box.bottom + 2}px`;
      list.style.bottom = up ? `${innerHeight - box.top + 2}px` : 'auto';
    };
    places.set(list, place);
    const open = async typed => {
      const mine = ++turn;
      const here = [...select.options].map(o => ({ value: o.value, text: o.text.trim(), group: o.parentElement.label ?? '', hint: '' }));
      const known = new Set(here.map(o => o.value));
      const all = [...here, ...(more ? (await rest(more)).filter(o => !known.has(o.value)) : [])];
      if (mine !== turn) return;
      const words = parts(typed);
      const fits = all.filter(o => { const own = parts(`${o.text} ${o.hint}`); return words.every(w => own.some(p => p.startsWith(w))); });
      // What begins as it was typed comes first.
      const begun = plain(typed.trim()), rank = o => (plain(o.text) === begun ? 0 : plain(o.text).startsWith(begun) ? 1 : 2);
      if (words.length) fits.sort((a, b) => rank(a) - rank(b));
      const groups = new Map();
      for (const o of fits) groups.set(o.group, [...(groups.get(o.group) ?? []), o]);
      const most = groups.size > 1 ? AT_ONCE : AT_MOST;
      options = [];
      list.replaceChildren(...[...groups].map(([name, of]) => {
        const shown = of.slice(0, most);
        const group = name
          ? make('div', { role: 'group', 'aria-label': name }, make('div', { class: 'pickg', 'aria-hidden': 'true' }, name))
          : make('div', { role: 'presentation' });
        for (const o of shown) {
          const traits = { role: 'option', id: `${id}-${options.length}`, 'aria-selected': 'false', class: 'picko' };
          const element = make('div', traits, make('span', {}, ...marked(o.text, words)));
          if (o.hint) element.append(make('span', { class: 'muted small' }, ...marked(o.hint, words)));
          options.push({ ...o, element });
          group.append(element);
        }
        if (of.length > shown.length)
          group.append(make('div', { class: 'pickm muted small', 'aria-hidden': 'true' }, `${of.length - shown.length} more: type on`));
        return group;
      }));
      if (!fits.length) list.append(make('div', { class: 'pickm', role: 'presentation' }, `Nothing here is called “${typed.trim()}”.`));
      tells.textContent = words.length ? `${fits.length} of ${all.length} fit` : `${all.length} choices`;
      if (!isOpen()) { list.showPopover(); field.setAttribute('aria-expanded', 'true'); }
      place();
      at = -1;
      mark(words.length ? 0 : Math.max(0, options.findIndex(o => o.value === select.value)));
    };

    field.addEventListener('input', e => { e.stopPropagation(); open(field.value); });
    field.addEventListener('change', e => e.stopPropagation());
    field.addEventListener('click', () => { if (!isOpen()) { field.select(); open(''); } });
    field.addEventListener('focus', () => { held = id; field.select(); });
    field.addEventListener('blur', () => {
      close();
      const empty = none();
      if (!field.value.trim() && empty && select.value !== '') choose({ value: '', text: empty.text }); else chosen();
    });
    field.addEventListener('keydown', e => {
      if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
        e.preventDefault();
        if (!isOpen()) open(''); else if (!e.altKey) mark(at + (e.key === 'ArrowDown' ? 1 : -1)); else close();
      } else if (e.key === 'Enter') {
        e.preventDefault();
        if (!isOpen()) open(''); else if (options[at]) choose(options[at]);
      } else if (e.key === 'Escape' && isOpen()) {
        e.preventDefault();
        e.stopPropagation();
        close();
        chosen();
        field.select();
      }
    });
    list.addEventListener('mousedown', e => e.preventDefault());
    list.addEventListener('click', e => { const o = options.find(x => x.element.contains(e.target)); if (o) choose(o); });
    chosen();
    if (held === id && (!document.activeElement || document.activeElement === document.body)) field.focus();
  };

  const all = () => {
    document.querySelectorAll('select').forEach(dress);
    document.querySelectorAll('datalist[data-rest]').forEach(of => {
      document.querySelectorAll(`input[list="${of.id}"]`).forEach(field => field.addEventListener('focus', async () => {
        if (of.options.length > 1) return;
        of.replaceChildren(...(await rest(of.dataset.rest)).map(o => new Option(o.text, o.value)));
      }, { once: true }));
    });
  };
  document.addEventListener('focusin', e => { if (!e.target.matches('.pickf')) held = null; });
  document.addEventListener('htmx:after:swap', all);
  // An open list stays at its field while the page moves under it.
  const follow = e => { if (!e.target.matches?.('.pickl')) document.querySelectorAll('.pickl:popover-open').forEach(l => places.get(l)?.()); };
  addEventListener('scroll', follow, { capture: true, passive: true });
  addEventListener('resize', follow);
  all();
})();

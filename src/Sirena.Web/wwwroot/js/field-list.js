// A field is found in the text itself: '@' and some letters of its name, then Enter.
// put(range, path) puts it in place of what a range holds, changed(area, rich) says that a text has changed.
window.fieldList = (put, changed) => {
  const list = document.createElement('div');
  Object.assign(list, { className: 'pickl', id: 'at-list', popover: 'manual' });
  list.setAttribute('role', 'listbox');
  list.setAttribute('aria-label', 'Fields');
  document.body.append(list);
  let asking = null;
  const leave = () => {
    if (list.matches(':popover-open')) list.hidePopover();
    asking?.rich.removeAttribute('aria-activedescendant');
    asking = null;
  };
  const point = to => {
    asking.at = (to + list.children.length) % list.children.length;
    [...list.children].forEach((o, i) => o.setAttribute('aria-selected', i === asking.at));
    list.children[asking.at].scrollIntoView({ block: 'nearest' });
    asking.rich.setAttribute('aria-activedescendant', `at-${asking.at}`);
  };
  const ask = (area, rich) => {
    const s = getSelection(), node = s.anchorNode;
    const inText = s.isCollapsed && node?.nodeType === 3 && rich.contains(node);
    const typed = inText ? /(?:^|[\s(])@([\p{L}\p{N}. ]{0,30})$/u.exec(node.data.slice(0, s.anchorOffset)) : null;
    const wanted = typed?.[1].toLowerCase().split(/\s+/).filter(Boolean);
    const fit = b => wanted.every(w => `${b.textContent} ${b.dataset.path}`.toLowerCase().includes(w));
    const fits = typed ? [...document.querySelectorAll('#fields [data-path]')].filter(fit).slice(0, 9) : [];
    if (!fits.length) { leave(); return; }
    asking = { area, rich, node, from: s.anchorOffset - typed[1].length - 1, at: 0 };
    list.replaceChildren(...fits.map((b, i) => {
      const o = document.createElement('div'), value = document.createElement('span');
      Object.assign(o, { className: 'picko', id: `at-${i}`, textContent: b.querySelector('b').textContent });
      o.setAttribute('role', 'option');
      o.dataset.path = b.dataset.path;
      Object.assign(value, { className: 'muted small', textContent: b.querySelector('span').textContent });
      o.append(value);
      return o;
    }));
    if (!list.matches(':popover-open')) list.showPopover();
    const caret = document.createRange();
    caret.setStart(node, asking.from);
    caret.setEnd(node, s.anchorOffset);
    const box = caret.getBoundingClientRect(), up = innerHeight - box.bottom < 260;
    Object.assign(list.style, {
      left: `${Math.min(box.left, innerWidth - 320)}px`, minWidth: '300px', maxHeight: '250px',
      top: up ? 'auto' : `${box.bottom + 4}px`, bottom: up ? `${innerHeight - box.top + 4}px` : 'auto',
    });
    point(0);
  };
  const take = path => {
    const { area, rich, node, from } = asking, range = document.createRange();
    range.setStart(node, from);
    range.setEnd(node, getSelection().anchorOffset);
    put(range, path);
    leave();
    changed(area, rich);
  };
  list.addEventListener('mousedown', e => { e.preventDefault(); const o = e.target.closest('[data-path]'); if (o) take(o.dataset.path); });
  const key = e => {
    if (!asking) return;
    if (e.key === 'ArrowDown' || e.key === 'ArrowUp') { e.preventDefault(); point(asking.at + (e.key === 'ArrowDown' ? 1 : -1)); }
    else if (e.key === 'Enter' || e.key === 'Tab') { e.preventDefault(); e.stopImmediatePropagation(); take(list.children[asking.at].dataset.path); }
    else if (e.key === 'Escape') { e.preventDefault(); leave(); }
  };
  return { ask, leave, key };
};

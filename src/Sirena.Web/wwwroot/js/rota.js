// The Rota page with mouse and keys: a shift is dragged, or moved by the arrows, in steps of a quarter of an hour; the page's own form carries the change.
// The page works without it.
(() => {
  const card = document.querySelector('[data-rota="edit"]');
  const form = document.getElementById('drag');
  if (!card || !form) return;
  const rows = [...card.querySelectorAll('.wr[data-person]')];
  const later = (wall, minutes) => { const d = new Date(wall + ':00Z'); d.setUTCMinutes(d.getUTCMinutes() + minutes); return d.toISOString().slice(0, 16); };
  const week = 7 * 24 * 60;

  const send = (shift, minutes, row, copy) => {
    const address = new URL(shift.href.baseVal || shift.getAttribute('href'), window.location.href);
    const values = {
      shift: address.searchParams.get('shift'), at: address.searchParams.get('at'), whose: address.searchParams.get('whose'),
      person: row.dataset.person,
      add: later(shift.dataset.from, minutes), until: later(shift.dataset.to, minutes),
    };
    for (const [name, value] of Object.entries(values)) form.elements[name].value = value;
    form.action = copy ? form.dataset.copy : form.dataset.move;
    form.requestSubmit();
  };
  const show = (shift, minutes, up) => {
    const width = shift.ownerSVGElement.getBoundingClientRect().width;
    shift.setAttribute('transform', `translate(${minutes / week * width} ${up})`);
    shift.querySelector('title').textContent = `${later(shift.dataset.from, minutes).slice(11)} to ${later(shift.dataset.to, minutes).slice(11)}`;
  };

  let held = null;
  card.addEventListener('pointerdown', e => {
    const shift = e.target.closest('a[data-shift]');
    if (shift && e.button === 0) held = { shift, x: e.clientX, y: e.clientY, moved: false };
  });
  document.addEventListener('pointermove', e => {
    if (!held) return;
    const dx = e.clientX - held.x;
    if (!held.moved && Math.hypot(dx, e.clientY - held.y) < 5) return;
    held.moved = true;
    held.minutes = Math.round(dx / held.shift.ownerSVGElement.getBoundingClientRect().width * week / 15) * 15;
    show(held.shift, held.minutes, e.clientY - held.y);
  });
  document.addEventListener('pointerup', e => {
    if (!held) return;
    const { shift, moved, minutes } = held;
    held = null;
    if (!moved) return;
    const row = rows.find(r => { const b = r.getBoundingClientRect(); return e.clientY >= b.top && e.clientY < b.bottom; });
    if (row) send(shift, minutes, row, e.ctrlKey || e.metaKey); else show(shift, 0, 0);
    document.addEventListener('click', c => { c.preventDefault(); c.stopPropagation(); }, { capture: true, once: true });
    setTimeout(() => document.body.click(), 0);
  });
  card.addEventListener('dragstart', e => e.preventDefault());

  // Arrows move the chosen shift, Enter puts it there (with Ctrl: a copy), Escape leaves it.
  let keys = null;
  card.addEventListener('keydown', e => {
    const shift = e.target.closest('a[data-shift]');
    if (!shift) return;
    const own = rows.indexOf(shift.closest('.wr'));
    const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key];
    if (step) {
      e.preventDefault();
      if (keys?.shift !== shift) keys = { shift, minutes: 0, row: own };
      keys.minutes += step[0] * (e.shiftKey ? 60 : 15);
      keys.row = Math.max(0, Math.min(rows.length - 1, keys.row + step[1]));
      show(shift, keys.minutes, (keys.row - own) * 27);
    } else if (keys?.shift === shift && e.key === 'Enter') {
      e.preventDefault();
      send(shift, keys.minutes, rows[keys.row], e.ctrlKey);
    } else if (keys?.shift === shift && e.key === 'Escape') {
      show(shift, 0, 0);
      keys = null;
    }
  });

  card.addEventListener('dblclick', e => {
    const row = e.target.closest('.wr[data-person]');
    const svg = row?.querySelector('svg.wk');
    if (!svg || e.target.closest('a')) return;
    const box = svg.getBoundingClientRect();
    const begin = later(card.dataset.week + 'T00:00', Math.floor((e.clientX - box.left) / box.width * 7 * 24) * 60);
    const address = new URL(window.location.href);
    for (const [name, value] of Object.entries({ person: row.dataset.person, add: begin, until: later(begin, 480) })) address.searchParams.set(name, value);
    ['shift', 'at'].forEach(n => address.searchParams.delete(n));
    address.hash = 'add';
    window.location.assign(address);
  });
})();

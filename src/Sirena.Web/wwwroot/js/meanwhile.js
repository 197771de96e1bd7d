// Beside what was typed stands what the page holds now: the same form is read from the page as it is drawn for this reader.
(async () => {
  const table = document.querySelector('[data-both]');
  if (!table) return;
  const answer = await fetch(table.dataset.both, { redirect: 'error' }).catch(() => null);
  if (!answer?.ok) return;
  const page = new DOMParser().parseFromString(await answer.text(), 'text/html');
  const rows = [...table.querySelectorAll('[data-field]')];
  const names = new Set(rows.map(r => r.dataset.field));
  const fits = form => [...form.elements].filter(e => names.has(e.name)).length;
  const form = [...page.forms].filter(f => f.method === 'post').sort((a, b) => fits(b) - fits(a))[0];
  if (!form || !fits(form)) return;
  const said = e => e.tagName === 'SELECT' ? [...e.selectedOptions].map(o => o.textContent.trim())
    : /^(checkbox|radio)$/.test(e.type) ? (e.checked ? [label(e) || e.value] : [])
    : [e.value];
  const label = e => (e.labels?.[0]?.textContent || e.getAttribute('aria-label') || '').trim().replace(/\s+/g, ' ');
  const seen = {};
  for (const row of rows) {
    const name = row.dataset.field, at = seen[name] = (seen[name] ?? -1) + 1;
    const fields = [...form.elements].filter(e => e.name === name && e.type !== 'hidden');
    if (!fields.length) { row.hidden = form.elements[name] !== undefined; continue; }
    const many = /^(checkbox|radio)$/.test(fields[0].type) || fields[0].multiple;
    const yours = row.querySelector('[data-yours]');
    const option = fields.flatMap(f => f.tagName === 'SELECT' ? [...f.options] : [f]).find(o => o.value === yours.textContent);
    if (option && (option.tagName === 'OPTION' || many))
      yours.textContent = option.tagName === 'OPTION' ? option.textContent.trim() : label(option) || option.value;
    const now = many ? fields.flatMap(said).join(', ') : (said(fields[at] ?? fields[0]).join(', '));
    const named = many ? fields[0].closest('fieldset')?.querySelector('legend')?.textContent.trim() : label(fields[0]);
    if (named) row.querySelector('[data-label]').textContent = named;
    const held = row.querySelector('[data-now]');
    if (!held) continue;
    held.textContent = now || 'empty';
    const same = many ? now.split(', ').includes(yours.textContent) : now === yours.textContent;
    row.classList.toggle('same', same);
    held.classList.toggle('muted', same);
  }
})();

// Rows of a table are put into another order by dragging; the form that the table names says which, and to which place. The same can be done by its buttons.
(() => {
  const table = document.querySelector('table[data-reorder]'), form = table && document.getElementById(table.dataset.reorder);
  if (!form) return;
  const rows = () => [...table.tBodies[0].rows];
  let held = null, first = 0;
  for (const row of rows()) {
    row.draggable = true;
    row.classList.add('drag');
  }
  table.addEventListener('dragstart', e => {
    held = e.target.closest?.('tr[data-status]');
    if (!held) return;
    first = rows().indexOf(held);
    e.dataTransfer.effectAllowed = 'move';
    e.dataTransfer.setData('text/plain', held.dataset.status);
    held.classList.add('held');
  });
  table.addEventListener('dragover', e => {
    const over = e.target.closest?.('tr[data-status]');
    if (!held || !over) return;
    e.preventDefault();
    if (over === held) return;
    if (rows().indexOf(held) > rows().indexOf(over)) over.before(held); else over.after(held);
  });
  table.addEventListener('drop', e => { if (held) e.preventDefault(); });
  table.addEventListener('dragend', () => {
    if (!held) return;
    held.classList.remove('held');
    const place = rows().indexOf(held);
    if (place !== first) {
      form.elements.id.value = held.dataset.status;
      form.elements.place.value = place + 1;
      form.requestSubmit();
    }
    held = null;
  });
})();

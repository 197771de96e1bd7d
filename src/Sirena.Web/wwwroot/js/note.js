// Notes on an order: a picture that is pasted goes with the note; what the customer reads looks unlike what stays inside.
(() => {
  const form = document.querySelector('[data-note]');
  if (!form) return;
  const file = form.querySelector('input[type=file]'), shot = form.querySelector('.shot'), button = form.querySelector('.btn-primary');
  const show = () => {
    const one = file.files[0];
    shot.hidden = !one;
    if (one) { const reader = new FileReader(); reader.onload = () => { shot.querySelector('img').src = reader.result; }; reader.readAsDataURL(one); }
  };
  file.addEventListener('change', show);
  shot.querySelector('button').addEventListener('click', () => { file.value = ''; show(); });
  form.querySelector('textarea').addEventListener('paste', e => {
    const item = [...e.clipboardData.items].find(i => i.type.startsWith('image/'));
    if (!item) return;
    e.preventDefault();
    const given = new DataTransfer();
    given.items.add(item.getAsFile());
    file.files = given.files;
    show();
  });
  form.addEventListener('change', () => {
    const outside = form.querySelector('[value=customer]').checked;
    form.classList.toggle('cust', outside);
    button.textContent = button.dataset[outside ? 'customer' : 'internal'];
  });
})();

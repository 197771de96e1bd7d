// How messages look: a real mail beside the form, drawn anew while it is filled in.
(() => {
  const form = document.getElementById('look');
  if (!form) return;
  const button = document.getElementById('draw-look');
  let soon = null;
  const draw = () => window.drawBeside(form, button);
  form.addEventListener('input', e => { if (e.target.type !== 'file') { clearTimeout(soon); soon = setTimeout(draw, 150); } });
  draw();
})();

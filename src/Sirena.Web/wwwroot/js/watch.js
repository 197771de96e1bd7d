// The Watch between two drawings: keys, a sound for a new urgent alert, what came while nobody looked, and a drawing every 15 seconds since time moves by
// itself.
(() => {
  const offset = () => Number(document.body.dataset.now) - loaded;
  const loaded = Date.now();
  const now = () => Date.now() + offset();
  const still = Math.abs(offset()) > 36e5; // a fixed clock, for pictures

  const rows = () => [...document.querySelectorAll('#watch [data-alert]')];
  // Arrows move between fuses; Enter opens the order, Tab goes on to the row's buttons.
  document.addEventListener('keydown', e => {
    const step = { ArrowDown: 1, ArrowUp: -1 }[e.key];
    if (!step || e.altKey || e.ctrlKey || e.metaKey || /^(INPUT|TEXTAREA|SELECT)$/.test(e.target.tagName)) return;
    const list = rows(), at = list.indexOf(document.activeElement?.closest('[data-alert]')), next = list[at < 0 ? (step > 0 ? 0 : list.length - 1) : at + step];
    if (!next) return;
    e.preventDefault();
    next.querySelector('a.id, button')?.focus({ preventScroll: true });
    next.scrollIntoView({ block: 'nearest' });
  });

  const button = () => document.querySelector('[data-watch-sound]');
  const show = () => {
    const b = button();
    if (!b) return;
    b.textContent = window.sirenaSound.on() ? 'Sound on' : 'Sound off';
    b.setAttribute('aria-pressed', window.sirenaSound.on());
  };
  document.addEventListener('click', e => { if (e.target.closest('[data-watch-sound]')) { window.sirenaSound.toggle(); show(); } });
  show();

  let known = new Set(rows().map(r => r.dataset.alert));
  const look = () => {
    const list = rows();
    if (window.sirenaSound.on() && list.some(r => r.dataset.urgent && !known.has(r.dataset.alert))) window.sirenaSound.play();
    known = new Set(list.map(r => r.dataset.alert));
    show();
    tell();
  };
  document.addEventListener('htmx:after:swap', look);

  // What was raised since this page was last in front of somebody.
  const since = Number(localStorage.getItem('sirena.watched') || now());
  const tell = () => {
    const missed = document.getElementById('missed'), came = rows().filter(r => Number(r.dataset.raised) > since).length;
    if (missed && came && Date.now() - loaded < 120000) missed.textContent = `${came} came since you last looked`;
  };
  tell();
  const note = () => { if (!document.hidden) localStorage.setItem('sirena.watched', now()); };
  setInterval(note, 5000);
  window.addEventListener('pagehide', () => localStorage.setItem('sirena.watched', now()));

  if (!still) setInterval(() => { if (!document.hidden) document.dispatchEvent(new CustomEvent('sirena:whole')); }, 30000);
})();

// The person's own page: a sound for what is new, push for this browser, the wall that follows by itself.
(() => {
  const waiting = () => new Set([...document.querySelectorAll('.mc.waits [name="alert"]')].map(i => i.value));
  const button = document.querySelector('[data-sound]');
  const { on, play, toggle } = window.sirenaSound;
  const show = () => { if (button) { button.textContent = on() ? button.dataset.off : button.dataset.on; button.setAttribute('aria-pressed', on()); } };
  button?.addEventListener('click', () => { toggle(); show(); });
  document.querySelector('[data-sound-test]')?.addEventListener('click', play);
  show();

  let known = waiting();
  const look = () => {
    const now = waiting();
    if (on() && [...now].some(id => !known.has(id))) play();
    known = now;
  };
  document.addEventListener('htmx:after:swap', look);

  const push = document.querySelector('[data-push]'), says = document.querySelector('[data-push-says]'), here = document.getElementById('here');
  if (!push) return;
  const tell = words => { says.textContent = words; };
  if (!('serviceWorker' in navigator) || !('PushManager' in window)) {
    push.disabled = true;
    tell(window.isSecureContext ? here.dataset.none : here.dataset.https);
    return;
  }

  const key = Uint8Array.from(atob(here.dataset.pushKey.replace(/-/g, '+').replace(/_/g, '/')), c => c.charCodeAt(0));
  const browsers = [['Firefox', 'Firefox'], ['Edg', 'Edge'], ['Chrom', 'Chromium'], ['Safari', 'Safari'], ['', 'a browser']];
  const browserName = () => browsers.find(([sign]) => navigator.userAgent.includes(sign))[1];
  const send = (method, subscription) => fetch('/api/push/subscriptions', {
    method, headers: { 'Content-Type': 'application/json', 'X-Sirena-Form': document.querySelector('.mine > input[name="__RequestVerificationToken"]').value },
    body: JSON.stringify({ ...subscription.toJSON(), name: `${browserName()} on ${navigator.platform || 'a device'}` }),
  });
  const state = async () => {
    const worker = await navigator.serviceWorker.register('/worker.js');
    const subscription = await worker.pushManager.getSubscription();
    push.textContent = subscription ? push.dataset.off : push.dataset.on;
    push.setAttribute('aria-pressed', !!subscription);
    return { worker, subscription };
  };
  state().catch(e => tell(e.message));
  push.addEventListener('click', async () => {
    push.disabled = true;
    try {
      const { worker, subscription } = await state();
      if (subscription) {
        await send('DELETE', subscription);
        await subscription.unsubscribe();
        tell(here.dataset.off);
      } else {
        if (await Notification.requestPermission() !== 'granted') { tell(here.dataset.denied); return; }
        const made = await worker.pushManager.subscribe({ userVisibleOnly: true, applicationServerKey: key });
        const answer = await send('POST', made);
        if (!answer.ok) { await made.unsubscribe(); tell((await answer.json()).errors?.[0]?.problem ?? here.dataset.failed); return; }
        tell(here.dataset.on);
      }
      await state();
    } catch (e) { tell(`${here.dataset.failed} ${e.message}`); } finally { push.disabled = false; }
  });
})();

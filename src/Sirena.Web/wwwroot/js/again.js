// A part of a page without the news that looks again by itself every few seconds, and is drawn anew where something differs.
(() => {
  for (const { id, dataset } of document.querySelectorAll('[data-again]')) {
    let shown = document.getElementById(id).innerHTML;
    const turn = setInterval(async () => {
      if (document.hidden) return;
      try {
        const fresh = new DOMParser().parseFromString(await (await fetch(dataset.from || location.href)).text(), 'text/html').getElementById(id);
        const part = document.getElementById(id);
        if (!fresh || fresh.innerHTML === shown || part.contains(document.activeElement)) return;
        part.innerHTML = shown = fresh.innerHTML;
        if (!fresh.dataset.again) clearInterval(turn);
      } catch { /* there is no line just now */ }
    }, dataset.again * 1000);
  }
})();

// The browser knows its time zone.
(() => {
  const field = document.querySelector('[data-own-zone]');
  if (field && !field.value) field.value = Intl.DateTimeFormat().resolvedOptions().timeZone || '';
})();

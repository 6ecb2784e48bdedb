// Shows a form page one screen at a time. Without it, all screens stand below each other and the form works the same.
(() => {
  const tell = () =>
    parent !== window && parent.postMessage({ pineBellHeight: document.documentElement.scrollHeight }, '*');
  addEventListener('load', tell);
  const form = document.querySelector('form[data-screens]');
  if (!form) return;
  const screens = [...form.querySelectorAll('[data-screen]')];
  const [back, next, send] = ['back', 'next', 'send'].map((name) => form.querySelector(`[data-${name}]`));
  // What the server marked is shown first.
  let at = Math.max(
    0,
    screens.findIndex((screen) => screen.querySelector('[aria-invalid="true"]')),
  );
  const show = () => {
    for (const [i, screen] of screens.entries()) screen.hidden = i !== at;
    back.hidden = at === 0;
    next.hidden = at === screens.length - 1;
    send.hidden = at < screens.length - 1;
    tell();
  };
  const good = () =>
    [...screens[at].querySelectorAll('input, select, textarea')].every((field) => field.reportValidity());
  next.addEventListener('click', () => {
    if (!good()) return;
    at += 1;
    show();
    screens[at].querySelector('input, select, textarea')?.focus();
  });
  back.addEventListener('click', () => {
    at -= 1;
    show();
  });
  form.addEventListener('submit', (event) => {
    if (at < screens.length - 1) {
      event.preventDefault();
      next.click();
    } else if (!good()) event.preventDefault();
  });
  if (screens.length > 1) show();
})();

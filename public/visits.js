// Tells Pine Bell by which link somebody came to a page of yours, so that it can be put with their entry once they fill in a form.
// First-party, no cookie, no fingerprint. Nothing is kept or sent where the browser asks not to be followed, or before they agree where the site asks.
(() => {
  const me = document.currentScript;
  const site = me?.dataset.site;
  if (!site) return;
  const home = new URL(me.src).origin;
  const asks = me.dataset.asks !== undefined;
  const ID = 'pine-bell-visitor';
  const CHOICE = 'pine-bell-choice';
  const refusedByBrowser =
    navigator.globalPrivacyControl === true || navigator.doNotTrack === '1' || window.doNotTrack === '1';
  // A browser that keeps nothing is one that does not want to.
  const kept = (name) => {
    try {
      return localStorage.getItem(name);
    } catch {
      return null;
    }
  };
  const keep = (name, value) => {
    try {
      if (value === null) localStorage.removeItem(name);
      else localStorage.setItem(name, value);
    } catch {}
  };
  const may = () => !refusedByBrowser && kept(CHOICE) !== 'no' && (!asks || kept(CHOICE) === 'yes');

  const visitor = () => {
    const known = kept(ID);
    if (known && /^[\w-]{22}$/.test(known)) return known;
    const made = btoa(String.fromCharCode(...crypto.getRandomValues(new Uint8Array(16))))
      .replaceAll('+', '-')
      .replaceAll('/', '_')
      .replaceAll('=', '');
    keep(ID, made);
    return kept(ID) === made ? made : null;
  };

  const came = () => {
    const from = document.referrer;
    const outside = from !== '' && new URL(from).host !== location.host;
    const marked = [...new URLSearchParams(location.search).keys()].some((name) =>
      /^utm_|clid$|^click_id$/i.test(name),
    );
    return outside || marked;
  };

  let told = false;
  const tell = () => {
    if (told || !may() || !came()) return;
    const who = visitor();
    if (!who) return;
    told = true;
    const wide = matchMedia('(min-width: 1024px)').matches;
    const device = matchMedia('(pointer: coarse)').matches ? (wide ? 'tablet' : 'phone') : 'computer';
    const consent = kept(CHOICE) === 'yes' ? 'agreed' : 'not asked';
    // As plain text it needs no leave to be asked for beforehand (Fetch, "CORS-safelisted").
    fetch(`${home}/site/${site}`, {
      method: 'POST',
      keepalive: true,
      credentials: 'omit',
      headers: { 'content-type': 'text/plain' },
      body: JSON.stringify({ visitor: who, address: location.href, referrer: document.referrer, device, consent }),
    }).catch(() => {
      told = false;
    });
  };

  // Who they are shows only when they send a form themselves: it carries the random name along.
  addEventListener(
    'submit',
    ({ target: form }) => {
      if (!may() || !(form instanceof HTMLFormElement)) return;
      const who = visitor();
      if (!who) return;
      let field = form.querySelector('input[name="pb_visitor"]');
      if (!field) {
        field = document.createElement('input');
        field.type = 'hidden';
        field.name = 'pb_visitor';
        form.append(field);
      }
      field.value = who;
    },
    true,
  );
  // Our own form pages are elsewhere: a link to one carries it.
  addEventListener(
    'click',
    ({ target }) => {
      const link = target instanceof Element ? target.closest('a[href]') : null;
      if (!link || !may() || !link.href.startsWith(`${home}/f/`)) return;
      const who = visitor();
      if (!who) return;
      const url = new URL(link.href);
      url.searchParams.set('pb_visitor', who);
      link.href = url.href;
    },
    true,
  );

  window.pineBell = {
    agree() {
      keep(CHOICE, 'yes');
      tell();
    },
    refuse() {
      keep(CHOICE, 'no');
      keep(ID, null);
    },
  };
  if (refusedByBrowser) keep(ID, null);
  tell();
})();

// Puts Pine Bell form pages where <div data-pine-bell-form="ADDRESS"> stands, with the page's own UTM values and referrer.
(() => {
  for (const place of document.querySelectorAll('[data-pine-bell-form]:not([data-ready])')) {
    place.dataset.ready = '';
    const address = new URL(place.dataset.pineBellForm);
    for (const [name, value] of new URLSearchParams(location.search)) address.searchParams.append(name, value);
    address.searchParams.set('from', document.referrer || location.href);
    // Kept by visits.js, and only where it may.
    try {
      const visitor = localStorage.getItem('pine-bell-visitor');
      if (visitor) address.searchParams.set('pb_visitor', visitor);
    } catch {}
    const frame = document.createElement('iframe');
    frame.src = address.href;
    frame.title = 'Form';
    frame.style.cssText = 'width:100%;border:0;min-height:420px';
    addEventListener('message', (event) => {
      if (event.source === frame.contentWindow && Number(event.data?.pineBellHeight) > 0)
        frame.style.height = `${Math.min(4000, event.data.pineBellHeight + 8)}px`;
    });
    place.append(frame);
  }
})();

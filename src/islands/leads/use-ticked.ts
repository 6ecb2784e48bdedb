import { useEffect, useState } from 'react';

/**
 * Ids of the leads whose boxes are ticked in the table of the page. The table is the page's own, so that it stands there before
 * any script has run; the box in its head ticks all of them.
 */
export function useTicked(): string[] {
  const [ticked, setTicked] = useState<string[]>([]);
  useEffect(() => {
    const boxes = () => [...document.querySelectorAll<HTMLInputElement>('input[data-lead]')];
    const read = () => setTicked(boxes().flatMap((box) => (box.checked ? [box.value] : [])));
    const changed = (event: Event) => {
      const box = event.target;
      if (!(box instanceof HTMLInputElement)) return;
      if (box.dataset.leads !== undefined) for (const input of boxes()) input.checked = box.checked;
      else if (box.dataset.lead === undefined) return;
      read();
    };
    document.addEventListener('change', changed);
    // A browser that goes back brings the ticks back with it.
    read();
    return () => document.removeEventListener('change', changed);
  }, []);
  return ticked;
}

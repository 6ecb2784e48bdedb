import { useState } from 'react';

/** What a page of results is asked for, as it stands in its address: the view can be kept and handed on. An empty value takes a question out. */
export function useAddress(search: string): [asked: string, change: (changes: Record<string, string>) => void] {
  const [asked, setAsked] = useState(search);
  const change = (changes: Record<string, string>) => {
    const next = new URLSearchParams(asked);
    for (const [key, value] of Object.entries(changes)) {
      if (value === '') next.delete(key);
      else next.set(key, value);
    }
    setAsked(next.toString());
    history.replaceState(null, '', `?${next}`);
  };
  return [asked, change];
}

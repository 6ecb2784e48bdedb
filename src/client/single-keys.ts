const OFF = 'pinebell_keys_off';

/** Whether keys without Ctrl do something on this device; some people speak their text, and every word would be a command (WCAG 2.1.4). */
export const keysAreOn = (): boolean => localStorage.getItem(OFF) === null;

export function switchKeys(on: boolean): void {
  if (on) localStorage.removeItem(OFF);
  else localStorage.setItem(OFF, '1');
}

/** Whether this key may mean a command: nothing is being typed, and they are not switched off here. */
export function singleKeys(event: KeyboardEvent): boolean {
  if (event.ctrlKey || event.metaKey || event.altKey || !keysAreOn()) return false;
  return !(event.target as HTMLElement).closest('input, textarea, select, [contenteditable], .cm-editor, dialog');
}

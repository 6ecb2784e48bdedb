import { useState } from 'react';
import { Modal } from '../../client/Modal.tsx';
import { keysAreOn, switchKeys } from '../../client/single-keys.ts';

const KEYS: readonly [where: string, keys: readonly [key: string, does: string][]][] = [
  [
    'Everywhere',
    [
      ['Ctrl K', 'Find anything, or do something'],
      ['?', 'This list'],
      ['Esc', 'Close what is open'],
    ],
  ],
  [
    'Run sheet',
    [
      ['Ctrl Z, Ctrl Shift Z', 'Undo, and bring back'],
      ['Del', 'Remove the chosen step'],
      ['Space, arrows, Space', 'Take a step, carry it, put it down'],
      ['R', 'Rehearse'],
    ],
  ],
  [
    'Log, conversations and needs you',
    [
      ['J, K', 'The next, the one before'],
      ['E', 'Done with the conversation, or handled'],
      ['A', 'Write the answer'],
    ],
  ],
];

/** Every key that does something, and the switch for those without Ctrl. */
export default function ShortcutList({ onClose }: { onClose: () => void }) {
  const [on, setOn] = useState(keysAreOn());
  return (
    <Modal label="Keyboard shortcuts" className="w-[460px] max-w-[94vw] p-5" onClose={onClose}>
      <h2 className="mb-3 text-part">Keyboard shortcuts</h2>
      {KEYS.map(([where, keys]) => (
        <section key={where} className="mb-4">
          <h3 className="mb-1 text-note font-semibold text-ink-2">{where}</h3>
          <dl className="grid grid-cols-[11rem_1fr] gap-y-1">
            {keys.map(([key, does]) => (
              <div key={key} className="contents">
                <dt>
                  <kbd className="rounded border border-field-line bg-base-200 px-1.5 text-xs">{key}</kbd>
                </dt>
                <dd>{does}</dd>
              </div>
            ))}
          </dl>
        </section>
      ))}
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          className="checkbox checkbox-sm"
          checked={on}
          onChange={(event) => {
            switchKeys(event.target.checked);
            setOn(event.target.checked);
          }}
        />
        Single keys do something on this device
      </label>
    </Modal>
  );
}

import type { Trouble } from '../world-state.ts';
import { post } from './desk-api.ts';

type Switch = { key: keyof Trouble; name: string };
const CARRIER: Switch[] = [
  { key: 'carrierSlow', name: 'Slow, 4 s' },
  { key: 'carrierBusy', name: 'Busy (429)' },
  { key: 'carrierDown', name: 'Down' },
  { key: 'carrierLosesReports', name: 'Loses reports' },
];
const MAIL: Switch[] = [
  { key: 'mailGreylists', name: 'Greylists' },
  { key: 'mailDown', name: 'Down' },
];
const GROUPS = [
  {
    id: 'ads',
    name: 'Ad platform',
    switches: [
      { key: 'adsDown', name: 'Down' },
      { key: 'adsBusy', name: 'Busy (429)' },
      { key: 'adsSendTwice', name: 'Sends twice' },
      { key: 'adsWrongSignature', name: 'Wrong signature' },
    ],
  },
  { id: 'funnels', name: 'Funnel host', switches: [{ key: 'funnelsDown', name: 'Down' }] },
  {
    id: 'shop',
    name: 'Shop',
    switches: [
      { key: 'shopSendsTwice', name: 'Sends twice' },
      { key: 'shopWrongSignature', name: 'Wrong signature' },
    ],
  },
  { id: 'calendar', name: 'Calendars', switches: [{ key: 'calendarSendsTwice', name: 'Sends twice' }] },
  { id: 'chat', name: 'Chat network', switches: [{ key: 'chatDown', name: 'Down' }] },
  { id: 'push', name: 'Push service', switches: [{ key: 'pushDown', name: 'Down' }] },
  { id: 'directory', name: 'Company directory', switches: [{ key: 'directoryDown', name: 'Down' }] },
  {
    id: 'feed',
    name: 'Podcast',
    switches: [
      { key: 'feedDown', name: 'Down' },
      { key: 'feedBroken', name: 'Broken XML' },
      { key: 'feedHuge', name: 'Endless' },
      { key: 'feedAsksWeeks', name: 'Away, asks us to wait for weeks' },
    ],
  },
] as const satisfies { id: string; name: string; switches: Switch[] }[];

/** A word for the menu beside each service that misbehaves. */
export function troubleNames(trouble: Trouble): Record<string, string | null> {
  const name = (switches: readonly Switch[]) => {
    const on = switches.find(({ key }) => trouble[key] === true)?.name ?? '';
    return /^\w+/.exec(on)?.[0].toLowerCase() ?? null;
  };
  return {
    ...Object.fromEntries(GROUPS.map(({ id, switches }) => [id, name(switches)])),
    carrier: name(CARRIER),
    mail: name(MAIL),
  };
}

export function MakeTrouble({
  trouble,
  number,
  mailbox,
}: {
  trouble: Trouble;
  number: string | null;
  mailbox: string | null;
}) {
  const toggle = (key: keyof Trouble) => void post('/trouble', { [key]: !trouble[key] });
  const toggleIn = (key: 'refusedNumbers' | 'mailFull', value: string) => {
    const list = trouble[key];
    void post('/trouble', { [key]: list.includes(value) ? list.filter((one) => one !== value) : [...list, value] });
  };
  const chip = (on: boolean, name: string, act: () => void) => (
    <button
      key={name}
      type="button"
      className={`pill min-h-6 cursor-pointer ${on ? 'warn' : ''}`}
      aria-pressed={on}
      onClick={act}
    >
      {name}
    </button>
  );
  return (
    <section>
      <h2 className="mb-1 text-part">Make trouble</h2>
      <p className="mb-1 text-note text-ink-2">Text carrier</p>
      <div className="mb-3 flex flex-wrap gap-1.5">
        {CARRIER.map(({ key, name }) => chip(trouble[key] === true, name, () => toggle(key)))}
        {number &&
          chip(trouble.refusedNumbers.includes(number), 'Refuses this number', () =>
            toggleIn('refusedNumbers', number),
          )}
      </div>
      <p className="mb-1 text-note text-ink-2">Mail</p>
      <div className="mb-3 flex flex-wrap gap-1.5">
        {MAIL.map(({ key, name }) => chip(trouble[key] === true, name, () => toggle(key)))}
        {mailbox && chip(trouble.mailFull.includes(mailbox), 'Full mailbox', () => toggleIn('mailFull', mailbox))}
      </div>
      {GROUPS.map((group) => (
        <div key={group.id}>
          <p className="mb-1 text-note text-ink-2">{group.name}</p>
          <div className="mb-3 flex flex-wrap gap-1.5">
            {group.switches.map(({ key, name }) => chip(trouble[key], name, () => toggle(key)))}
          </div>
        </div>
      ))}
    </section>
  );
}

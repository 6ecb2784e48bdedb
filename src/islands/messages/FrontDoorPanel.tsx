import { useState } from 'react';
import { call } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { bound } from '../../components/bound.ts';
import { FieldPickerContext, UNSAID } from '../../components/field-picker.ts';
import { Choice, Line, Tick } from '../../components/fields.tsx';
import { Hint } from '../../components/Hint.tsx';
import { TokenField } from '../../components/TokenField.tsx';
import type { FrontDoor } from '../../core/message/front-door.ts';
import { READER_FIELDS } from './reader-fields.ts';

const PICKER = {
  fields: READER_FIELDS.filter((field) => field.key !== 'leave_link'),
  labels: new Map<string, string>(),
  surroundings: UNSAID,
  setTarget: () => {},
};

/** The front door: who is served in chat. */
export default function FrontDoorPanel({
  first,
  seen: firstSeen,
  asked,
  through,
  forms,
  changes,
}: {
  first: FrontDoor;
  seen: string;
  asked: number;
  through: number;
  forms: { id: string; name: string; live: boolean }[];
  changes: boolean;
}) {
  const [saved, setSaved] = useState(first);
  const [seen, setSeen] = useState(firstSeen);
  const [door, setDoor] = useState(first);
  const { act, busy, told } = useAction();
  const set = (patch: Partial<FrontDoor>) => setDoor({ ...door, ...patch });
  const of = bound(door, set);
  const dirty = JSON.stringify(door) !== JSON.stringify(saved);
  const save = () =>
    act(async () => {
      const now = await call('PUT', '/api/front-door', door, seen);
      setSaved(door);
      setSeen(now.seen);
    });
  return (
    <section className="sheet-card p-4" aria-label="Front door" data-testid="front-door">
      <div className="mb-1 flex flex-wrap items-center gap-2">
        <span className="flex items-center gap-1">
          <h2 className="text-part">Front door</h2>
          <Hint term="frontDoor" />
        </span>
        <span className={`pill ${saved.on ? 'good' : ''}`}>{saved.on ? 'Kept' : 'Open to all'}</span>
        {asked > 0 && (
          <span className="text-note text-ink-2">
            {asked} asked, {through} through
          </span>
        )}
      </div>
      <p className="mb-3 text-ink-2">
        Nobody is served in chat until they have completed the first-contact form: until then every message gets the
        form. Who has completed it is greeted by name, and their tick is kept as proof.
      </p>
      <fieldset disabled={!changes}>
        <Tick label="Keep the front door" {...of('on')} />
        {door.on && (
          <div className="mt-2 grid gap-x-4 md:grid-cols-2">
            <Choice
              label="First-contact form"
              {...of('form')}
              options={[
                ['', 'Choose a form'],
                ...forms.map((form) => [form.id, form.live ? form.name : `${form.name} (not live)`] as const),
              ]}
            />
            <Line
              label="Not sent again within, in minutes"
              value={door.everyMinutes}
              type="number"
              min={1}
              max={1440}
              onChange={(text) => set({ everyMinutes: Math.max(1, Number(text) || 1) })}
            />
            <FieldPickerContext.Provider value={PICKER}>
              <TokenField label="What comes with the form" {...of('message')} />
              <TokenField label="Once they are through; empty for none" {...of('greeting')} />
            </FieldPickerContext.Provider>
          </div>
        )}
        <Notice told={told} className="mb-2" />
        {dirty && (
          <button type="button" className="btn btn-primary btn-sm" disabled={busy} onClick={() => void save()}>
            {door.on ? 'Keep it like this' : 'Open it to all'}
          </button>
        )}
      </fieldset>
    </section>
  );
}

import { useState } from 'react';
import { Choice } from '../../components/fields.tsx';
import { type DeskState, post } from './desk-api.ts';
import { PersonFields, usePerson } from './PersonFields.tsx';
import { Pushes } from './Pushes.tsx';

/** A funnel page as a visitor sees it: leave your details, or buy the starter kit. */
export function FunnelPages({
  desk,
  onSent,
}: {
  desk: DeskState;
  onSent: (phone: string | null, email: string) => void;
}) {
  const funnel = desk.funnels[0]!;
  const person = usePerson();
  const [instrument, setInstrument] = useState('Piano');
  const [consent, setConsent] = useState(false);
  const visit = (step: number, buys: boolean) => {
    onSent(person.e164, person.email);
    const details = {
      first_name: person.first,
      last_name: person.last,
      email: person.email,
      phone: person.phone,
      instrument,
      consent: String(consent),
      consent_wording: 'Send me the planner and tips by email and text. I can stop this at any time.',
    };
    void post(`/steps/${funnel.steps[step]!.id}/visit`, { person: details, buys });
  };
  return (
    <>
      <h2 className="text-lg">{funnel.name}</h2>
      <p className="mb-3 text-note text-ink-2">One of 400 funnels at this host. As a visitor sees it.</p>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          visit(0, false);
        }}
      >
        <PersonFields person={person} />
        <Choice label="Instrument" block="mt-3 block" value={instrument} onChange={setInstrument}>
          {['Piano', 'Violin', 'Guitar', 'Cello', 'Flute'].map((one) => (
            <option key={one}>{one}</option>
          ))}
        </Choice>
        <label className="mt-3 flex items-start gap-2.5">
          <input
            type="checkbox"
            className="checkbox checkbox-sm mt-0.5"
            checked={consent}
            onChange={(event) => setConsent(event.target.checked)}
          />
          <span>Send me the planner and tips by email and text. I can stop this at any time.</span>
        </label>
        <div className="mt-4 flex flex-wrap gap-2">
          <button className="btn btn-primary" type="submit">
            Get the planner
          </button>
          <button className="btn btn-plain" type="button" onClick={() => visit(2, true)}>
            Buy the starter kit, £37
          </button>
          <button className="btn btn-ghost" type="button" onClick={person.fill}>
            Someone new
          </button>
        </div>
      </form>
      <Pushes
        pushes={desk.pushes.filter((push) => push.service === 'funnels').reverse()}
        none="Nothing yet. Opt in above; if a source listens to this page, it is told."
      />
    </>
  );
}

import Send from 'lucide-react/icons/send';
import { useMemo, useState } from 'react';
import { call } from '../../client/call.ts';
import { goTo } from '../../client/go-to.ts';
import { ToldLine as Told } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { FieldPickerContext, UNSAID } from '../../components/field-picker.ts';
import { Choice, Line, Tick } from '../../components/fields.tsx';
import { ReachNote } from '../../components/ReachNote.tsx';
import { useReach } from '../../components/use-reach.ts';
import type { Catalogue } from '../../core/workflow/step-kind.ts';
import type { EmailSettings } from '../../steps/email/definition.ts';
import { EmailFields } from '../../steps/email-fields.tsx';
import { audienceChoices } from '../../steps/mailing/definition.ts';
import { READER_FIELDS } from './reader-fields.ts';

/** "London" of "Europe/London". */
const zoneWords = (zone: string) => (zone.split('/').at(-1) ?? zone).replaceAll('_', ' ');

const SPREADS = [
  ['0', 'As fast as it goes'],
  ['60', 'Over 1 hour'],
  ['240', 'Over 4 hours'],
  ['720', 'Over 12 hours'],
  ['1440', 'Over a day'],
] as const;

/** One email to a list or a tag: written, tried, timed and sent. */
export default function Mailing({
  catalogue,
  blank,
  zone,
}: {
  catalogue: Catalogue;
  blank: EmailSettings;
  /** The business's time zone, by which it begins. */
  zone: string;
}) {
  const [id] = useState(() => crypto.randomUUID());
  const [to, setTo] = useState('');
  const [email, setEmail] = useState(blank);
  const [at, setAt] = useState('');
  const [spread, setSpread] = useState('0');
  const [tries, setTries] = useState(false);
  const [subjectB, setSubjectB] = useState('');
  const [part, setPart] = useState('20');
  const [decideAfter, setDecideAfter] = useState('240');
  const [sure, setSure] = useState(false);
  const { act, busy, told } = useAction();
  const asked = { to, needsConsent: email.needsConsent, purpose: email.purpose };
  const reach = useReach(asked);
  const picker = useMemo(
    () => ({ fields: READER_FIELDS, labels: new Map<string, string>(), surroundings: UNSAID, setTarget: () => {} }),
    [],
  );
  const toMe = () =>
    act(
      async () => {
        const { accepted, to: where, detail } = await call('POST', '/api/mailings/to-me', { email });
        if (!accepted) throw new Error(`Not sent to ${where}: ${detail}`);
        return where;
      },
      (where) => `Sent to ${where}. Look there now.`,
    );
  const send = () =>
    act(async () => {
      await call('POST', '/api/mailings', {
        id,
        to,
        email,
        at: at === '' ? null : at,
        spreadMinutes: Number(spread),
        ...(tries ? { subjectB, part: Number(part), decideAfter: Number(decideAfter) } : {}),
      });
      await goTo('/messages/emails');
    });
  return (
    <FieldPickerContext.Provider value={picker}>
      <main className="mx-auto grid max-w-[1000px] gap-6 p-5 grid-cols-1 md:grid-cols-[minmax(0,1fr)_320px]">
        <section className="sheet-card p-4">
          <h1 className="mb-3 text-xl">One-off email</h1>
          <Choice
            label="Who gets it"
            value={to}
            options={audienceChoices(catalogue)}
            onChange={(value) => {
              setTo(value);
              setSure(false);
            }}
          />
          <ReachNote {...asked} />
          <EmailFields
            stepId="mailing"
            settings={email}
            change={(patch) => setEmail({ ...email, ...patch })}
            catalogue={catalogue}
          />
        </section>
        <section className="sheet-card self-start p-4">
          <h2 className="mb-2 text-part">When</h2>
          <Line
            label={<>It begins, by the clock of {zoneWords(zone)}; empty for now</>}
            small
            value={at}
            type="datetime-local"
            onChange={setAt}
          />
          <Choice label="How fast" value={spread} options={SPREADS} onChange={setSpread} />
          <h2 className="mt-4 mb-2 text-part">Two subjects</h2>
          <Tick label="Try a second subject on a part first" value={tries} onChange={setTries} />
          {tries && (
            <>
              <Line label="The second subject" value={subjectB} maxLength={500} onChange={setSubjectB} />
              <Choice
                label="Tried on"
                value={part}
                options={['10', '20', '30', '50'].map((n) => [n, `${n} % of them, half each`] as const)}
                onChange={setPart}
              />
              <Choice
                label="Judged after"
                value={decideAfter}
                options={[
                  ['60', '1 hour'],
                  ['240', '4 hours'],
                  ['1440', 'A day'],
                ]}
                onChange={setDecideAfter}
              />
              <p className="text-note text-ink-2">
                The rest gets the subject that more people opened. When the difference may be chance, nobody has won and
                the rest gets the first.
              </p>
            </>
          )}
          <button
            type="button"
            className="btn btn-plain btn-sm mt-4 w-full"
            disabled={busy}
            onClick={() => void toMe()}
          >
            <Send className="size-4" aria-hidden="true" />
            Send it to my inbox
          </button>
          {sure ? (
            <button type="button" className="btn btn-primary mt-2 w-full" disabled={busy} onClick={() => void send()}>
              Yes, send it to {reach?.reached ?? 0} people
            </button>
          ) : (
            <button
              type="button"
              className="btn btn-primary mt-2 w-full"
              disabled={!reach || reach.reached === 0 || (tries && subjectB.trim() === '')}
              onClick={() => setSure(true)}
            >
              {at === '' ? 'Send it' : 'Plan it'}
            </button>
          )}
          <Told told={told} className="mt-2" />
        </section>
      </main>
    </FieldPickerContext.Provider>
  );
}

import { Choice, Line, Tick } from '../../components/fields.tsx';
import { CHANNEL_WORDS, CHANNELS } from '../../core/workflow/channel.ts';
import { capital } from '../../core/workflow/read-aloud.ts';
import { ENDS, type Ends, type Rules, SAME_PERSON, TEXT_HOURS } from '../../core/workflow/rules.ts';
import type { Catalogue } from '../../core/workflow/step-kind.ts';

interface Part {
  rules: Rules;
  change: (patch: Partial<Rules>) => void;
}

const SAME: Record<Rules['samePerson'], string> = {
  nothing: 'Do nothing',
  by_source: 'By what the source brings: people once, each order, booking and row by itself',
  update_only: 'Only update what is on record',
  run_again_after: 'Run again, once some days have passed',
  run_again: 'Run again always',
};
const ENDS_WORDS: Record<Ends, string> = {
  reply: 'They reply',
  stop: 'They ask for no more',
  booked: 'They book an appointment',
  bought: 'They buy',
};

/** What is done when the same person comes in again. */
export function SamePersonRule({ rules, change }: Part) {
  return (
    <section className="sheet-card p-4">
      <h2 className="mb-2 text-part">The same person again</h2>
      <Choice
        label="When somebody comes in whom this workflow has already run for"
        value={rules.samePerson}
        options={SAME_PERSON.map((one) => [one, SAME[one]] as const)}
        onChange={(samePerson) => change({ samePerson })}
      />
      {rules.samePerson === 'run_again_after' && (
        <Line
          label="Days since they last went through"
          value={String(rules.againAfterDays)}
          onChange={(days) => change({ againAfterDays: Math.max(1, Math.min(3650, Number(days) || 1)) })}
        />
      )}
      <Choice
        label="They are known"
        value={rules.knownBy}
        options={[
          ['workflow', 'By any source of this workflow'],
          ['source', 'Only by the same source'],
        ]}
        onChange={(knownBy) => change({ knownBy })}
      />
      <p className="text-note text-ink-2">A person is recognised by their email address or phone number.</p>
    </section>
  );
}

/** When messages may go out, by channel, and what is exempt. */
export function QuietHours({ rules, change }: Part) {
  return (
    <section className="sheet-card p-4">
      <h2 className="mb-2 text-part">Quiet hours</h2>
      {CHANNELS.map((channel) => {
        const hours = rules.hours[channel];
        const set = (next: Rules['hours']['text']) => change({ hours: { ...rules.hours, [channel]: next } });
        return (
          <div key={channel} className="mb-3">
            <label className="mb-1.5 flex items-center gap-2">
              <input
                type="checkbox"
                className="checkbox checkbox-sm"
                checked={hours !== null}
                onChange={(event) => set(event.target.checked ? TEXT_HOURS : null)}
              />
              {capital(CHANNEL_WORDS[channel].many)} go out only between
            </label>
            {hours && (
              <div className="grid max-w-64 grid-cols-2 gap-2">
                <Line label="from" type="time" value={hours.from} onChange={(from) => set({ ...hours, from })} />
                <Line label="to" type="time" value={hours.to} onChange={(to) => set({ ...hours, to })} />
              </div>
            )}
          </div>
        );
      })}
      <p className="text-note text-ink-2">
        By the lead’s own clock. Where their phone number can be in several time zones, the hours must have begun in all
        of them; where it tells none, your clock counts. What is held goes out when the hours begin.
      </p>
      <Tick
        label="Answer who has just come in at once, whatever the hour"
        block="mt-3 flex items-start gap-2"
        value={rules.answerAtOnce}
        onChange={(on) => change({ answerAtOnce: on })}
        note={
          <>
            Somebody who has this minute filled in a form or written expects it. Only in the moment <em>On arrival</em>,
            only what they asked for and no news or offers; never for imports, sheets, or what lay there for more than
            15 minutes.
          </>
        }
      />
      <Tick
        label="A message that is held holds what stands below it"
        block="mt-2 flex items-start gap-2"
        value={rules.holdsLane}
        onChange={(on) => change({ holdsLane: on })}
        note="Otherwise an email below a held text goes out at once."
      />
    </section>
  );
}

/** What ends a run early. */
export function EndsEarly({ rules, change, catalogue }: Part & { catalogue: Catalogue }) {
  return (
    <section className="sheet-card p-4">
      <h2 className="mb-2 text-part">Ends early when</h2>
      {ENDS.map((end) => (
        <Tick
          key={end}
          label={ENDS_WORDS[end]}
          block="mb-1.5 flex items-center gap-2"
          value={rules.endsWhen.includes(end)}
          onChange={(on) =>
            change({
              endsWhen: on ? [...rules.endsWhen, end] : rules.endsWhen.filter((other) => other !== end),
            })
          }
        />
      ))}
      {catalogue.tags.length > 0 && (
        <details className="mt-2" open={rules.endsTags.length > 0}>
          <summary className="cursor-pointer text-note text-ink-2">They get a tag</summary>
          {catalogue.tags.map((tag) => (
            <Tick
              key={tag.id}
              label={tag.name}
              block="mt-1.5 flex items-center gap-2"
              value={rules.endsTags.includes(tag.id)}
              onChange={(on) =>
                change({
                  endsTags: on ? [...rules.endsTags, tag.id] : rules.endsTags.filter((other) => other !== tag.id),
                })
              }
            />
          ))}
        </details>
      )}
      <p className="mt-2 text-note text-ink-2">Moments that have not begun yet are then left out.</p>
    </section>
  );
}

/** Who is told of failures, and how much is done at once. */
export function WhenItFails({ rules, change, catalogue }: Part & { catalogue: Catalogue }) {
  return (
    <section className="sheet-card p-4">
      <h2 className="mb-2 text-part">When something fails</h2>
      <Choice
        label="Who is told by email"
        value={rules.tell?.colleague ?? ''}
        options={[
          ['', 'Nobody: it stands in Needs you'],
          ...catalogue.colleagues.map((colleague) => [colleague.id, colleague.name] as const),
        ]}
        onChange={(colleague) =>
          change({ tell: colleague === '' ? null : { every: rules.tell?.every ?? 'hour', colleague } })
        }
      />
      {rules.tell && (
        <Choice
          label="How often at most"
          value={rules.tell.every}
          options={[
            ['each', 'At once, every time'],
            ['hour', 'Once an hour, together'],
            ['day', 'Once a day, together'],
          ]}
          onChange={(every) => change({ tell: { ...rules.tell!, every } })}
        />
      )}
      <Choice
        label="Leads worked on at the same time"
        value={String(rules.mostAtOnce ?? '')}
        options={[
          ['', 'As many as come'],
          ...['1', '2', '5', '10', '20', '50'].map((n) => [n, `At most ${n}`] as const),
        ]}
        onChange={(most) => change({ mostAtOnce: most === '' ? null : Number(most) })}
      />
    </section>
  );
}

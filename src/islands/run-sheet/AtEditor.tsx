import { bound } from '../../components/bound.ts';
import { FieldChoice } from '../../components/FieldChoice.tsx';
import { Area, Choice, Line, Tick } from '../../components/fields.tsx';
import { SpanInput } from '../../components/SpanInput.tsx';
import { ThingChoice } from '../../components/ThingChoice.tsx';
import type { At, Awaited } from '../../core/workflow/at.ts';
import { atNames } from '../../core/workflow/at-names.ts';
import { type Definition, placedSteps } from '../../core/workflow/definition.ts';
import type { Catalogue } from '../../core/workflow/step-kind.ts';
import { stepKinds } from '../../steps/registry.ts';

const EVENTS: Record<Awaited, string> = {
  reply: 'They reply',
  answer: 'They answer a question',
  form: 'They fill in a chat form',
  link: 'They click a link',
  opened: 'They open an email',
  arrival: 'They come in by a source: book, buy, fill in a form',
  tag: 'They get a tag',
  list: 'They join a list',
  stage: 'Their deal comes to a stage',
};

/** When a moment begins. */
export function AtEditor({
  at,
  catalogue,
  definition,
  onAt,
}: {
  at: At;
  catalogue: Catalogue;
  /** The sheet it stands on: a moment can wait for what one of its steps asked or sent. */
  definition: Definition;
  onAt: (at: At) => void;
}) {
  switch (at.kind) {
    case 'on_arrival':
      return null;
    case 'later':
      return (
        <SpanInput label="How long after the moment above" value={at.span} onChange={(span) => onAt({ ...at, span })} />
      );
    case 'time_of_day':
      return (
        <>
          <Line label="At" type="time" value={at.time} onChange={(time) => onAt({ ...at, time })} />
          <Choice
            label="On"
            value={at.day}
            options={[
              ['next_day', 'The next day'],
              ['soonest', 'The same day, if the time is still to come'],
            ]}
            onChange={(day) => onAt({ ...at, day })}
          />
          <Tick
            label="Working days only: no weekends, none of your holidays"
            block="mb-3 flex items-center gap-2 text-note"
            value={at.workingDays}
            onChange={(on) => onAt({ ...at, workingDays: on })}
          />
          <Whose whose={at.whose} onChange={(whose) => onAt({ ...at, whose })} />
        </>
      );
    case 'on_date':
      return (
        <>
          <div className="mb-3">
            <span className="field-label">Counted from the date in</span>
            <FieldChoice
              label="Counted from the date in"
              value={at.field}
              onChange={(field) => onAt({ ...at, field })}
            />
          </div>
          <Choice
            label="When"
            value={at.side}
            options={[
              ['before', 'Before it'],
              ['on', 'On it'],
              ['after', 'After it'],
            ]}
            onChange={(side) => onAt({ ...at, side })}
          />
          {at.side !== 'on' && (
            <SpanInput label="How long" value={at.span} onChange={(span) => onAt({ ...at, span })} />
          )}
          <Tick
            label="At a certain time of that day"
            value={at.time !== null}
            onChange={(on) => onAt({ ...at, time: on ? '09:00' : null })}
          />
          {at.time !== null && (
            <Line label="At" type="time" value={at.time} onChange={(time) => onAt({ ...at, time })} />
          )}
          <Choice
            label="If that has passed already"
            value={at.ifPassed}
            options={[
              ['skip', 'Leave this moment out'],
              ['at_once', 'Do it at once'],
            ]}
            onChange={(ifPassed) => onAt({ ...at, ifPassed })}
          />
          <Whose whose={at.whose} onChange={(whose) => onAt({ ...at, whose })} />
        </>
      );
    case 'event':
      return <EventEditor at={at} catalogue={catalogue} definition={definition} onAt={onAt} />;
  }
}

type EventAt = Extract<At, { kind: 'event' }>;

function EventEditor({
  at,
  catalogue,
  definition,
  onAt,
}: {
  at: EventAt;
  catalogue: Catalogue;
  definition: Definition;
  onAt: (at: At) => void;
}) {
  const set = (patch: Partial<EventAt>) => onAt({ ...at, ...patch });
  const of = bound(at, set);
  const named = atNames(definition, stepKinds, catalogue);
  const steps = placedSteps(definition).map(({ step }) => step);
  const stepsOf = (kinds: readonly string[], first: string) =>
    [
      ['', first],
      ...steps.filter((step) => kinds.includes(step.kind)).map((step) => [step.id, named.step(step.id)] as const),
    ] as const;
  const one = (
    label: string,
    key: 'tag' | 'list' | 'stage',
    first: string,
    list: readonly { id: string; name: string }[],
  ) => (
    <ThingChoice
      label={label}
      what={key}
      value={at[key]}
      things={list}
      none={first}
      onChange={(id) => set({ [key]: id })}
    />
  );
  const step = (label: string, kinds: readonly string[], first: string) => (
    <Choice label={label} {...of('step')} options={stepsOf(kinds, first)} />
  );
  return (
    <>
      <Choice
        label="Wait until"
        value={at.event}
        options={(Object.keys(EVENTS) as Awaited[]).map((event) => [event, EVENTS[event]] as const)}
        onChange={(event) => set({ event, step: '' })}
      />
      {at.event === 'reply' && (
        <Area label="With one of these words, one per line; empty for any reply" {...of('words')} rows={2} />
      )}
      {at.event === 'answer' && step('Which question', ['ask'], 'Choose a question')}
      {at.event === 'form' && step('In which message', ['chat', 'chat-template'], 'Any message of this sheet')}
      {at.event === 'link' &&
        step('In which message', ['text', 'email', 'chat', 'chat-template'], 'Any message of this sheet')}
      {at.event === 'opened' && step('Which email', ['email'], 'Any email of this sheet')}
      {at.event === 'arrival' && (
        <fieldset className="mb-3">
          <legend className="field-label">By which sources; none for any</legend>
          {catalogue.sources.map((source) => (
            <Tick
              key={source.id}
              label={source.name}
              value={at.sources.includes(source.id)}
              onChange={(on) =>
                set({ sources: on ? [...at.sources, source.id] : at.sources.filter((id) => id !== source.id) })
              }
            />
          ))}
        </fieldset>
      )}
      {at.event === 'tag' && one('Which tag', 'tag', 'Choose a tag', catalogue.tags)}
      {at.event === 'list' && one('Which list', 'list', 'Choose a list', catalogue.lists)}
      {at.event === 'stage' && one('Which stage', 'stage', 'Choose a stage', catalogue.stages)}
      <SpanInput label="Wait at most" {...of('within')} />
    </>
  );
}

function Whose({ whose, onChange }: { whose: 'lead' | 'business'; onChange: (whose: 'lead' | 'business') => void }) {
  return (
    <Choice
      label="By whose clock"
      value={whose}
      options={[
        ['lead', 'The lead’s, as their phone number tells'],
        ['business', 'Ours'],
      ]}
      onChange={onChange}
    />
  );
}

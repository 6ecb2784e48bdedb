import ArrowDown from 'lucide-react/icons/arrow-down';
import ArrowUp from 'lucide-react/icons/arrow-up';
import Plus from 'lucide-react/icons/plus';
import Trash2 from 'lucide-react/icons/trash-2';
import { Choice, Line } from '../../components/Choice.tsx';
import { ConditionEditor, FieldChoice } from '../../components/ConditionEditor.tsx';
import { SpanInput } from '../../components/SpanInput.tsx';
import type { Condition } from '../../core/condition/condition.ts';
import type { At, Awaited } from '../../core/workflow/at.ts';
import type { Case, Moment } from '../../core/workflow/definition.ts';
import type { SendingDesk } from '../../core/workflow/step-kind.ts';
import { Tool } from './Tool.tsx';

interface Props {
  moment: Moment;
  first: boolean;
  canUp: boolean;
  canDown: boolean;
  desk: SendingDesk;
  onAt: (at: At) => void;
  onOnlyIf: (condition: Condition | null) => void;
  onAddCase: () => void;
  onCase: (caseId: string, patch: Partial<Case>) => void;
  onRemoveCase: (caseId: string) => void;
  onMove: (by: -1 | 1) => void;
  onRemove: () => void;
}

/** The chosen moment: when it begins, under which condition, and its cases. */
export function MomentInspector(props: Props) {
  const { moment, first, desk } = props;
  return (
    <div className="p-3.5">
      <div className="mb-3 flex items-start gap-1">
        <h2 className="grow text-base">{first ? 'On arrival' : 'A later moment'}</h2>
        {!first && (
          <>
            <Tool label="Move up" disabled={!props.canUp} onClick={() => props.onMove(-1)}>
              <ArrowUp className="size-4" />
            </Tool>
            <Tool label="Move down" disabled={!props.canDown} onClick={() => props.onMove(1)}>
              <ArrowDown className="size-4" />
            </Tool>
            <Tool label="Remove this moment" onClick={props.onRemove}>
              <Trash2 className="size-4" />
            </Tool>
          </>
        )}
      </div>
      {first ? (
        <p className="mb-3 text-[13px] text-ink-2">It begins the moment a lead comes in.</p>
      ) : (
        <AtEditor at={moment.at} desk={desk} onAt={props.onAt} />
      )}
      <ConditionEditor label="Only if" value={moment.onlyIf} desk={desk} onChange={props.onOnlyIf} />
      <h3 className="field-label">Cases</h3>
      <p className="mb-2 text-[13px] text-ink-2">
        {moment.cases.length === 0
          ? 'Without cases the same happens for everybody.'
          : 'The first that fits is taken; when none does, "Otherwise".'}
      </p>
      {moment.cases.map((one, i) => (
        <section key={one.id} className="mb-2 rounded-lg border border-base-300 p-2" aria-label={`Case ${i + 1}`}>
          <div className="mb-1 flex items-center gap-1">
            <input
              className="input input-xs grow"
              aria-label="Name of the case"
              placeholder={`Case ${i + 1}`}
              value={one.name}
              maxLength={60}
              onChange={(event) => props.onCase(one.id, { name: event.target.value })}
            />
            <Tool label="Remove this case" onClick={() => props.onRemoveCase(one.id)}>
              <Trash2 className="size-4" />
            </Tool>
          </div>
          <ConditionEditor
            label="When"
            value={one.when}
            desk={desk}
            onChange={(when) => props.onCase(one.id, { when: when ?? { all: [] } })}
          />
        </section>
      ))}
      <button type="button" className="btn btn-plain btn-sm" onClick={props.onAddCase}>
        <Plus className="size-4" aria-hidden="true" />
        Add a case
      </button>
    </div>
  );
}

const EVENTS: Record<Awaited, string> = {
  reply: 'They reply by text',
  arrival: 'They come in by a source',
  tag: 'They get a tag',
};

function AtEditor({ at, desk, onAt }: { at: At; desk: SendingDesk; onAt: (at: At) => void }) {
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
          <label className="mb-3 flex items-center gap-2 text-[13px]">
            <input
              type="checkbox"
              className="checkbox checkbox-sm"
              checked={at.workingDays}
              onChange={(event) => onAt({ ...at, workingDays: event.target.checked })}
            />
            Working days only: no weekends, none of your holidays
          </label>
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
          <label className="mb-2 flex items-center gap-2 text-[13px]">
            <input
              type="checkbox"
              className="checkbox checkbox-sm"
              checked={at.time !== null}
              onChange={(event) => onAt({ ...at, time: event.target.checked ? '09:00' : null })}
            />
            At a certain time of that day
          </label>
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
      return (
        <>
          <Choice
            label="Wait until"
            value={at.event}
            options={(Object.keys(EVENTS) as Awaited[]).map((event) => [event, EVENTS[event]] as const)}
            onChange={(event) => onAt({ ...at, event })}
          />
          {at.event === 'reply' && (
            <label className="mb-3 block">
              <span className="field-label">With one of these words, one per line; empty for any reply</span>
              <textarea
                className="textarea"
                rows={2}
                value={at.words}
                onChange={(event) => onAt({ ...at, words: event.target.value })}
              />
            </label>
          )}
          {at.event === 'arrival' && (
            <fieldset className="mb-3">
              <legend className="field-label">By which sources; none for any</legend>
              {desk.sources.map((source) => (
                <label key={source.id} className="mb-1 flex items-center gap-2 text-[13px]">
                  <input
                    type="checkbox"
                    className="checkbox checkbox-sm"
                    checked={at.sources.includes(source.id)}
                    onChange={(event) =>
                      onAt({
                        ...at,
                        sources: event.target.checked
                          ? [...at.sources, source.id]
                          : at.sources.filter((id) => id !== source.id),
                      })
                    }
                  />
                  {source.name}
                </label>
              ))}
            </fieldset>
          )}
          {at.event === 'tag' && (
            <Choice
              label="Which tag"
              value={at.tag}
              options={[['', 'Choose a tag'], ...desk.tags.map((tag) => [tag.id, tag.name] as const)]}
              onChange={(tag) => onAt({ ...at, tag })}
            />
          )}
          <SpanInput label="Wait at most" value={at.within} onChange={(within) => onAt({ ...at, within })} />
        </>
      );
  }
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

import Power from 'lucide-react/icons/power';
import { Suspense, useContext, useEffect, useState } from 'react';
import type { SentToMe } from '../../app/workflows/send-to-me.ts';
import { call } from '../../client/call.ts';
import { ConditionEditor } from '../../components/ConditionEditor.tsx';
import { FieldPickerContext } from '../../components/field-picker.ts';
import { Choice, Line } from '../../components/fields.tsx';
import { ItemTools } from '../../components/ItemTools.tsx';
import { Tool } from '../../components/Tool.tsx';
import { type IfFails, LANE_LABELS, type Place, type Step } from '../../core/workflow/definition.ts';
import type { Plan } from '../../core/workflow/plan.ts';
import type { Catalogue } from '../../core/workflow/step-kind.ts';
import { inVersion, TRIED_KINDS, type Trial, type Version } from '../../core/workflow/trial.ts';
import { stepForms } from '../../steps/forms.ts';
import { stepKinds } from '../../steps/registry.ts';
import { TrialPanel } from './TrialPanel.tsx';
import { TryIt } from './TryIt.tsx';

interface Props {
  step: Step;
  place: Place;
  first: boolean;
  last: boolean;
  catalogue: Catalogue;
  plan: Plan | null;
  /** The same of a step that is not on the sheet like this: its version B. */
  planOf: (step: Step) => Plan | null;
  sampleName: string;
  onSettings: (patch: Record<string, unknown>) => void;
  onChange: (patch: Partial<Step>) => void;
  /** Version B is changed, or what counts in the trial. */
  onTrial: (patch: Partial<Trial>) => void;
  onEndTrial: (version: Version) => void;
  onCopy: () => void;
  onRemove: () => void;
  onMove: (by: -1 | 1) => void;
  onSendToMe: () => Promise<SentToMe>;
  /** Something a step can refer to was made in place. */
  onMade: () => Promise<void>;
}

/** What can be made beside a step, where it is chosen. */
const MAKES = {
  tag: (name: string) => call('POST', '/api/tags', { name }),
  list: (name: string) => call('POST', '/api/lists', { name }),
  pipeline: (name: string) => call('POST', '/api/pipelines', { name }),
};

/** The chosen step: its fields, and what this sample lead would get. */
export function StepInspector({
  step,
  place,
  first,
  last,
  catalogue,
  plan,
  planOf,
  sampleName,
  onSettings,
  onChange,
  onTrial,
  onEndTrial,
  onCopy,
  onRemove,
  onMove,
  onSendToMe,
  onMade,
}: Props) {
  // Forms are loaded by kind, and in the browser only: what the server sends has no scripts of its own in it. All below the
  // heading comes together, so that nothing moves under the pointer.
  const [awake, setAwake] = useState(false);
  useEffect(() => setAwake(true), []);
  const kind = stepKinds.get(step.kind);
  const [version, setVersion] = useState<Version>('a');
  // Taken back by a colleague or by undo, there is no version B any more.
  const inB = version === 'b' && step.trial !== undefined;
  const settings = kind?.settings.safeParse(inVersion(step, version).settings);
  const Form = stepForms[step.kind];
  return (
    <div className="p-3.5">
      <div className="mb-3 flex items-start gap-1">
        <h2 className="grow text-part">{kind?.label ?? step.kind}</h2>
        <ItemTools what="step" {...{ first, last, onMove, onCopy, onRemove }}>
          <Tool
            label={step.on ? 'Switch off' : 'Switch on'}
            pressed={!step.on}
            onClick={() => onChange({ on: !step.on })}
          >
            <Power className="size-4" />
          </Tool>
        </ItemTools>
      </div>
      {awake && (
        <Suspense fallback={<p className="text-ink-2">Opening …</p>}>
          {!step.on && <p className="notice mb-3 text-note">Switched off: it stays on the sheet and does nothing.</p>}
          {TRIED_KINDS.has(step.kind) && place !== 'first' && (
            <TrialPanel
              step={step}
              version={inB ? 'b' : 'a'}
              show={setVersion}
              start={(trial) => onChange({ trial })}
              change={onTrial}
              end={onEndTrial}
            />
          )}
          {Form && settings?.success ? (
            <Form
              key={inB ? `${step.id} b` : step.id}
              stepId={step.id}
              settings={settings.data as Record<string, unknown>}
              change={inB ? (patch) => onTrial({ settings: { ...step.trial!.settings, ...patch } }) : onSettings}
              catalogue={catalogue}
              plan={inB ? planOf(inVersion(step, 'b')) : plan}
              sampleName={sampleName}
              make={async (what, name) => {
                const made = await MAKES[what](name);
                await onMade();
                return made;
              }}
              makeSheet={async (name, columns) => {
                const { tabs } = await call('POST', '/api/sheets', { name, columns });
                await onMade();
                return tabs[0]!;
              }}
              addColumn={async (tabId, name) => {
                await call('POST', `/api/tabs/${tabId}/columns`, { name });
                await onMade();
              }}
              addField={async (listId, name) => {
                await call('POST', `/api/lists/${listId}/fields`, { name });
                await onMade();
              }}
            />
          ) : (
            <p className="notice bad">The settings of this step cannot be read.</p>
          )}
          <div className="mt-3 border-t border-base-300 pt-3">
            <ConditionEditor
              label="Only when"
              value={step.onlyIf}
              catalogue={catalogue}
              onChange={(onlyIf) => onChange({ onlyIf })}
            />
            {OUTSIDE.has(step.kind) && (
              <Failing
                value={step.ifFails}
                kind={step.kind}
                first={place === 'first'}
                onChange={(ifFails) => onChange({ ifFails })}
              />
            )}
          </div>
          {kind?.repeats && <ForEach value={step.each} onChange={(each) => onChange({ each })} />}
          <TryIt step={step} plan={plan} onTry={onSendToMe} />
          <Line
            label="Note to colleagues"
            block="mt-4 block"
            small
            value={step.note}
            placeholder="Why this step is here"
            maxLength={2000}
            onChange={(text) => onChange({ note: text.slice(0, 500) })}
          />
        </Suspense>
      )}
      <p className="mt-3 text-xs text-ink-3">{LANE_LABELS[place]}</p>
    </div>
  );
}

/** Kinds that reach outside, or look something up, and so can fail. */
const OUTSIDE = new Set([
  'text',
  'ask',
  'email',
  'chat',
  'chat-template',
  'tell',
  'call-service',
  'look-up',
  'company',
  'service-look-up',
  'service-record',
]);
const INSTEAD: Record<string, string> = {
  text: 'Email it instead',
  email: 'Text it instead',
  chat: 'Text it instead',
};
const TRY_FOR = [0, 5, 15, 60, 240, 1440, 4320] as const;
const tryWords = (minutes: number) =>
  minutes === 0
    ? 'not at all'
    : minutes < 60
      ? `${minutes} minutes`
      : minutes < 1440
        ? `${minutes / 60} ${minutes === 60 ? 'hour' : 'hours'}`
        : `${minutes / 1440} ${minutes === 1440 ? 'day' : 'days'}`;

function Failing({
  value,
  kind,
  first,
  onChange,
}: {
  value: IfFails;
  kind: string;
  first: boolean;
  onChange: (value: IfFails) => void;
}) {
  const other = INSTEAD[kind] ?? null;
  const minutes = (TRY_FOR as readonly number[]).includes(value.tryForMinutes)
    ? TRY_FOR
    : [...TRY_FOR, value.tryForMinutes];
  return (
    <>
      <Choice
        label="If it fails"
        value={value.after}
        options={[
          ['carry_on', first ? 'Tell me, and go on without it' : 'Tell me, and carry on below'],
          ['stop_lane', first ? 'Tell me, and end here' : 'Tell me, and leave out what stands below'],
          ...(other ? ([['other_channel', other]] as const) : []),
        ]}
        onChange={(after) => onChange({ ...value, after })}
      />
      <Choice
        label="While it cannot be reached, try again for"
        value={String(value.tryForMinutes)}
        options={minutes.map((minute) => [String(minute), tryWords(minute)] as const)}
        onChange={(one) => onChange({ ...value, tryForMinutes: Number(one) })}
      />
      {first && kind !== 'look-up' && value.tryForMinutes > 0 && (
        <p className="mb-2 text-note text-ink-2">Meanwhile everything in this moment waits for it.</p>
      )}
    </>
  );
}

/** Once, or once for each item of a list that came with the sample. */
function ForEach({ value, onChange }: { value: string; onChange: (each: string) => void }) {
  const { lists = [] } = useContext(FieldPickerContext);
  if (lists.length === 0 && value === '') return null;
  const chosen = lists.find((list) => list.key === value);
  return (
    <>
      <Choice
        label="How often"
        value={value}
        options={[
          ['', 'Once for the lead'],
          ...lists.map((list) => [list.key, `Once for each of: ${list.label}`] as const),
        ]}
        onChange={onChange}
      />
      {chosen && (
        <p className="mb-2 text-note text-ink-2">
          Of each in the list: {chosen.columns.map((name) => `{{ item.${name} }}`).join('  ')}
        </p>
      )}
    </>
  );
}

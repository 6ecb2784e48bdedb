import ArrowDown from 'lucide-react/icons/arrow-down';
import ArrowUp from 'lucide-react/icons/arrow-up';
import Copy from 'lucide-react/icons/copy';
import Power from 'lucide-react/icons/power';
import Send from 'lucide-react/icons/send';
import Trash2 from 'lucide-react/icons/trash-2';
import { Suspense, useEffect, useState } from 'react';
import type { SentToMe } from '../../app/rehearse.ts';
import { Choice } from '../../components/Choice.tsx';
import { ConditionEditor } from '../../components/ConditionEditor.tsx';
import { type IfFails, LANE_LABELS, type Place, type Step } from '../../core/workflow/definition.ts';
import type { Plan } from '../../core/workflow/plan.ts';
import type { SendingDesk } from '../../core/workflow/step-kind.ts';
import { stepForms } from '../../steps/forms.ts';
import { stepKinds } from '../../steps/registry.ts';
import { call, messageOf } from '../call.ts';
import { Tool } from './Tool.tsx';

interface Props {
  step: Step;
  place: Place;
  first: boolean;
  last: boolean;
  desk: SendingDesk;
  plan: Plan | null;
  sampleName: string;
  onSettings: (patch: Record<string, unknown>) => void;
  onChange: (patch: Partial<Step>) => void;
  onCopy: () => void;
  onRemove: () => void;
  onMove: (by: -1 | 1) => void;
  onSendToMe: () => Promise<SentToMe>;
  /** Something a step can refer to was made in place. */
  onMade: () => Promise<void>;
}

/** The chosen step: its fields, and what this sample lead would get. */
export function StepInspector({
  step,
  place,
  first,
  last,
  desk,
  plan,
  sampleName,
  onSettings,
  onChange,
  onCopy,
  onRemove,
  onMove,
  onSendToMe,
  onMade,
}: Props) {
  const [sent, setSent] = useState<{ stepId: string; text: string; good: boolean } | null>(null);
  const [sending, setSending] = useState(false);
  // Forms are loaded by kind, and in the browser only: what the server sends has no scripts of its own in it. All below the
  // heading comes together, so that nothing moves under the pointer.
  const [awake, setAwake] = useState(false);
  useEffect(() => setAwake(true), []);
  const kind = stepKinds.get(step.kind);
  const settings = kind?.settings.safeParse(step.settings);
  const Form = stepForms[step.kind];
  const channel = plan?.does === 'send' ? plan.message.channel : step.kind === 'text' ? 'text' : 'email';
  const send = async () => {
    setSending(true);
    try {
      const result = await onSendToMe();
      setSent({
        stepId: step.id,
        good: result.accepted,
        text: result.accepted ? `Sent to ${result.to}. Look there now.` : `Not sent to ${result.to}: ${result.detail}`,
      });
    } catch (error) {
      setSent({ stepId: step.id, good: false, text: messageOf(error) });
    } finally {
      setSending(false);
    }
  };
  return (
    <div className="p-3.5">
      <div className="mb-3 flex items-start gap-1">
        <h2 className="grow text-base">{kind?.label ?? step.kind}</h2>
        <Tool label="Move up" disabled={first} onClick={() => onMove(-1)}>
          <ArrowUp className="size-4" />
        </Tool>
        <Tool label="Move down" disabled={last} onClick={() => onMove(1)}>
          <ArrowDown className="size-4" />
        </Tool>
        <Tool
          label={step.on ? 'Switch off' : 'Switch on'}
          pressed={!step.on}
          onClick={() => onChange({ on: !step.on })}
        >
          <Power className="size-4" />
        </Tool>
        <Tool label="Copy this step" onClick={onCopy}>
          <Copy className="size-4" />
        </Tool>
        <Tool label="Remove this step" onClick={onRemove}>
          <Trash2 className="size-4" />
        </Tool>
      </div>
      {awake && (
        <Suspense fallback={<p className="text-ink-2">Opening …</p>}>
          {!step.on && <p className="notice mb-3 text-[13px]">Switched off: it stays on the sheet and does nothing.</p>}
          {Form && settings?.success ? (
            <Form
              stepId={step.id}
              settings={settings.data as Record<string, unknown>}
              change={onSettings}
              desk={desk}
              plan={plan}
              sampleName={sampleName}
              make={async (what, name) => {
                const made = await call<{ id: string }>('POST', `/api/${what}s`, { name });
                await onMade();
                return made;
              }}
            />
          ) : (
            <p className="notice bad">The settings of this step cannot be read.</p>
          )}
          <div className="mt-3 border-t border-base-300 pt-3">
            <ConditionEditor
              label="Only when"
              value={step.onlyIf}
              desk={desk}
              onChange={(onlyIf) => onChange({ onlyIf })}
            />
            {OUTSIDE.has(step.kind) && (
              <Failing value={step.ifFails} kind={step.kind} onChange={(ifFails) => onChange({ ifFails })} />
            )}
          </div>
          {MESSAGES.has(step.kind) && (
            <>
              <button
                type="button"
                className="btn btn-plain mt-3 w-full"
                disabled={sending || plan?.does !== 'send'}
                onClick={() => void send()}
              >
                <Send className="size-4" aria-hidden="true" />
                {channel === 'text' ? 'Send it to my phone' : 'Send it to my inbox'}
              </button>
              <p
                className={`mt-1.5 text-xs ${sent?.stepId === step.id ? (sent.good ? 'text-success' : 'text-error') : 'text-ink-2'}`}
                role="status"
              >
                {sent?.stepId === step.id
                  ? sent.text
                  : `Really sends one ${channel === 'text' ? 'text, to your test number' : 'email, to your test address'} only.`}
              </p>
            </>
          )}
          <label className="mt-4 block">
            <span className="field-label">Note to colleagues</span>
            <input
              className="input input-sm"
              value={step.note}
              onChange={(event) => onChange({ note: event.target.value.slice(0, 500) })}
              placeholder="Why this step is here"
            />
          </label>
        </Suspense>
      )}
      <p className="mt-3 text-xs text-ink-3">{LANE_LABELS[place]}</p>
    </div>
  );
}

const MESSAGES = new Set(['text', 'email', 'tell']);
/** Kinds that reach outside, or look something up, and so can fail. */
const OUTSIDE = new Set([...MESSAGES, 'call-service', 'look-up']);
const TRY_FOR = [0, 5, 15, 60, 240, 1440, 4320] as const;
const tryWords = (minutes: number) =>
  minutes === 0
    ? 'not at all'
    : minutes < 60
      ? `${minutes} minutes`
      : minutes < 1440
        ? `${minutes / 60} ${minutes === 60 ? 'hour' : 'hours'}`
        : `${minutes / 1440} ${minutes === 1440 ? 'day' : 'days'}`;

function Failing({ value, kind, onChange }: { value: IfFails; kind: string; onChange: (value: IfFails) => void }) {
  const other = kind === 'text' ? 'Email it instead' : kind === 'email' ? 'Text it instead' : null;
  const minutes = (TRY_FOR as readonly number[]).includes(value.tryForMinutes)
    ? TRY_FOR
    : [...TRY_FOR, value.tryForMinutes];
  return (
    <>
      <Choice
        label="If it fails"
        value={value.after}
        options={[
          ['carry_on', 'Tell me, and carry on below'],
          ['stop_lane', 'Tell me, and leave out what stands below'],
          ...(other ? ([['other_channel', other]] as const) : []),
        ]}
        onChange={(after) => onChange({ ...value, after })}
      />
      <Choice
        label="While it cannot be reached, try again for"
        value={String(value.tryForMinutes)}
        options={minutes.map((one) => [String(one), tryWords(one)] as const)}
        onChange={(one) => onChange({ ...value, tryForMinutes: Number(one) })}
      />
    </>
  );
}

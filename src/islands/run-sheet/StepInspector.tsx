import ArrowDown from 'lucide-react/icons/arrow-down';
import ArrowUp from 'lucide-react/icons/arrow-up';
import Copy from 'lucide-react/icons/copy';
import Power from 'lucide-react/icons/power';
import Send from 'lucide-react/icons/send';
import Trash2 from 'lucide-react/icons/trash-2';
import { useState } from 'react';
import type { SentToMe } from '../../app/rehearse.ts';
import { LANE_LABELS, type Place, type Step } from '../../core/workflow/definition.ts';
import type { Plan } from '../../core/workflow/plan.ts';
import type { SendingDesk } from '../../core/workflow/step-kind.ts';
import { stepForms } from '../../steps/forms.ts';
import { stepKinds } from '../../steps/registry.ts';
import { messageOf } from '../call.ts';

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
}: Props) {
  const [sent, setSent] = useState<{ stepId: string; text: string; good: boolean } | null>(null);
  const [sending, setSending] = useState(false);
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
      {!step.on && <p className="notice mb-3 text-[13px]">Switched off: it stays on the sheet and does nothing.</p>}
      {Form && settings?.success ? (
        <Form
          stepId={step.id}
          settings={settings.data as Record<string, unknown>}
          change={onSettings}
          desk={desk}
          plan={plan}
          sampleName={sampleName}
        />
      ) : (
        <p className="notice bad">The settings of this step cannot be read.</p>
      )}
      {place !== 'first' && (
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
      <p className="mt-3 text-xs text-ink-3">{LANE_LABELS[place]}</p>
    </div>
  );
}

function Tool({
  label,
  onClick,
  disabled = false,
  pressed,
  children,
}: {
  label: string;
  onClick: () => void;
  disabled?: boolean;
  pressed?: boolean;
  children: React.ReactNode;
}) {
  return (
    <button
      type="button"
      className="btn btn-ghost btn-xs btn-square text-ink-2"
      aria-label={label}
      title={label}
      aria-pressed={pressed}
      disabled={disabled}
      onClick={onClick}
    >
      {children}
    </button>
  );
}

import { bound } from '../../components/bound.ts';
import { ConsentChoice } from '../../components/ConsentChoice.tsx';
import { Choice, Tick } from '../../components/fields.tsx';
import { WhatTheyGet } from '../../components/MessagePreview.tsx';
import { TextMeter } from '../../components/TextMeter.tsx';
import { TokenField } from '../../components/TokenField.tsx';
import type { StepFormProps } from '../step-form.ts';
import type { TextSettings } from './definition.ts';

export default function TextForm({ settings, change, catalogue, plan, sampleName }: StepFormProps<TextSettings>) {
  const of = bound(settings, change);
  const planned = plan?.does === 'send' && plan.message.channel === 'text' ? plan.message.text : null;
  return (
    <>
      {(catalogue.text?.senders.length ?? 0) > 1 ? (
        <Choice
          label="From"
          field="from"
          value={settings.from || catalogue.text!.from}
          options={catalogue.text!.senders.map((sender) => [sender, sender] as const)}
          onChange={(from) => change({ from: from === catalogue.text!.from ? '' : from })}
        />
      ) : (
        <p className="mb-3 text-note text-ink-2">
          To <span className="chip">Phone</span> from {catalogue.text?.from || 'no carrier yet'}
        </p>
      )}
      <TokenField label="Message" {...of('message')} />
      <TextMeter text={planned ?? settings.message} exact={planned !== null} />
      <ConsentChoice what="texts" needsConsent={settings.needsConsent} purpose={settings.purpose} onChange={change} />
      <Tick label="Shorten links and count clicks" {...of('countLinks')} />
      <Tick label="Do not send it yet: one of us reads it first" {...of('draft')} />
      <WhatTheyGet plan={plan} name={sampleName} />
    </>
  );
}

import { ConsentChoice } from '../../components/ConsentChoice.tsx';
import { MessagePreview } from '../../components/MessagePreview.tsx';
import { TextMeter } from '../../components/TextMeter.tsx';
import { TokenField } from '../../components/TokenField.tsx';
import type { StepFormProps } from '../step-form.ts';
import type { TextSettings } from './definition.ts';

export default function TextForm({ stepId, settings, change, desk, plan, sampleName }: StepFormProps<TextSettings>) {
  const planned = plan?.does === 'send' && plan.message.channel === 'text' ? plan.message.text : null;
  return (
    <>
      <p className="mb-3 text-[13px] text-ink-2">
        To <span className="chip">Phone</span> from {desk.text?.from || 'no carrier yet'}
      </p>
      <TokenField
        key={stepId}
        name="message"
        label="Message"
        value={settings.message}
        onChange={(message) => change({ message })}
      />
      <TextMeter text={planned ?? settings.message} exact={planned !== null} />
      <ConsentChoice
        what="texts"
        needsConsent={settings.needsConsent}
        onChange={(needsConsent) => change({ needsConsent })}
      />
      <h3 className="mt-4 mb-1.5 font-sans text-[13px] font-semibold text-ink-2">What {sampleName} gets</h3>
      <MessagePreview plan={plan} name={sampleName} />
    </>
  );
}

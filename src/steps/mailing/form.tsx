import { useEffect, useState } from 'react';
import { Choice } from '../../components/Choice.tsx';
import { PlanWords } from '../../components/PlanWords.tsx';
import { EmailFields } from '../email-fields.tsx';
import type { StepFormProps } from '../step-form.ts';
import type { MailingSettings } from './definition.ts';

interface Count {
  people: number;
  reached: number;
}

/** How many an email would reach, asked of the server whenever who gets it changes. */
function useReach(to: string, needsConsent: boolean): Count | null {
  const [count, setCount] = useState<Count | null>(null);
  useEffect(() => {
    setCount(null);
    if (to === '') return;
    const asked = new AbortController();
    const query = new URLSearchParams({ to, consent: needsConsent ? 'given' : '' });
    fetch(`/api/audience?${query}`, { signal: asked.signal })
      .then((answer) => (answer.ok ? (answer.json() as Promise<Count>) : null))
      .then(setCount)
      .catch(() => {});
    return () => asked.abort();
  }, [to, needsConsent]);
  return count;
}

export default function MailingForm({
  stepId,
  settings,
  change,
  desk,
  plan,
  sampleName,
}: StepFormProps<MailingSettings>) {
  const count = useReach(settings.to, settings.needsConsent);
  return (
    <>
      <Choice
        label="Who gets it"
        field="to"
        value={settings.to}
        options={[
          ['', 'Choose a list or a tag'],
          ...desk.lists.map((one) => [`list:${one.id}`, `The list ${one.name}`] as const),
          ...desk.tags.map((one) => [`tag:${one.id}`, `Everybody tagged ${one.name}`] as const),
        ]}
        onChange={(to) => change({ to })}
      />
      {count && (
        <p className="notice mb-3 text-[13px]" data-testid="reach">
          {count.reached === count.people
            ? `It would go to ${count.people} ${count.people === 1 ? 'person' : 'people'} now.`
            : `It would go to ${count.reached} of ${count.people} now: the others have no address, did not agree, or asked for no more.`}
        </p>
      )}
      <EmailFields stepId={stepId} settings={settings} change={change} desk={desk} />
      <p className="mb-2 text-[13px] text-ink-2">
        Fields of the lead are each reader’s own; form answers and what happened are those of what set this off.
      </p>
      <PlanWords plan={plan} name={sampleName} />
    </>
  );
}

import { useState } from 'react';
import { bound } from '../../components/bound.ts';
import { PlanWords } from '../../components/PlanWords.tsx';
import { ThingChoice } from '../../components/ThingChoice.tsx';
import { TokenField } from '../../components/TokenField.tsx';
import type { StepFormProps } from '../step-form.ts';
import type { DealSettings } from './definition.ts';

export default function DealForm({ settings, change, catalogue, plan, sampleName, make }: StepFormProps<DealSettings>) {
  const of = bound(settings, change);
  const [told, setTold] = useState('');
  return (
    <>
      <ThingChoice label="Stage" what="stage" {...of('stage')} things={catalogue.stages} none="Choose a stage" />
      {catalogue.stages.length === 0 && (
        <button
          type="button"
          className="btn btn-plain btn-sm mb-3"
          onClick={() => make('pipeline', 'Sales').catch((error: Error) => setTold(error.message))}
        >
          Make a pipeline with the usual stages
        </button>
      )}
      {told && (
        <p className="notice bad mb-2 text-note" role="alert">
          {told}
        </p>
      )}
      <TokenField label="Name of the deal" single {...of('title')} />
      <TokenField label="Its value; empty to leave it" single {...of('value')} />
      <p className="mb-2 text-note text-ink-2">
        A lead has one open deal in a pipeline: it is opened the first time and moved from then on.
      </p>
      <PlanWords plan={plan} name={sampleName} />
    </>
  );
}

import { bound } from '../../components/bound.ts';
import { Choice } from '../../components/fields.tsx';
import { MakeInPlace } from '../../components/MakeInPlace.tsx';
import { PlanWords } from '../../components/PlanWords.tsx';
import { ThingChoice } from '../../components/ThingChoice.tsx';
import type { StepFormProps } from '../step-form.ts';
import type { TagSettings } from './definition.ts';

export default function TagForm({ settings, change, catalogue, plan, sampleName, make }: StepFormProps<TagSettings>) {
  const of = bound(settings, change);
  return (
    <>
      <Choice
        label="What"
        {...of('action')}
        options={[
          ['add', 'Put a tag on'],
          ['remove', 'Take a tag off'],
        ]}
      />
      <ThingChoice label="Tag" what="tag" {...of('tag')} things={catalogue.tags} none="Choose a tag" />
      <MakeInPlace make={async (name) => change({ tag: (await make('tag', name)).id })} />
      <PlanWords plan={plan} name={sampleName} />
    </>
  );
}

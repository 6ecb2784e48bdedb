import { Choice } from '../../components/fields.tsx';
import { MakeInPlace } from '../../components/MakeInPlace.tsx';
import { PlanWords } from '../../components/PlanWords.tsx';
import type { StepFormProps } from '../step-form.ts';
import type { TagSettings } from './definition.ts';

export default function TagForm({ settings, change, desk, plan, sampleName, make }: StepFormProps<TagSettings>) {
  return (
    <>
      <Choice
        label="What"
        value={settings.action}
        options={[
          ['add', 'Put a tag on'],
          ['remove', 'Take a tag off'],
        ]}
        onChange={(action) => change({ action })}
      />
      <Choice
        label="Tag"
        field="tag"
        value={settings.tag}
        options={[['', 'Choose a tag'], ...desk.tags.map((tag) => [tag.id, tag.name] as const)]}
        onChange={(tag) => change({ tag })}
      />
      <MakeInPlace make={async (name) => change({ tag: (await make('tag', name)).id })} />
      <PlanWords plan={plan} name={sampleName} />
    </>
  );
}

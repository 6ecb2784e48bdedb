import { useState } from 'react';
import { Choice } from '../../components/Choice.tsx';
import { PlanWords } from '../../components/PlanWords.tsx';
import type { StepFormProps } from '../step-form.ts';
import type { TagSettings } from './definition.ts';

export default function TagForm({ settings, change, desk, plan, sampleName, make }: StepFormProps<TagSettings>) {
  const [name, setName] = useState('');
  const [told, setTold] = useState('');
  const create = async () => {
    try {
      const made = await make('tag', name);
      setName('');
      setTold('');
      change({ tag: made.id });
    } catch (error) {
      setTold((error as Error).message);
    }
  };
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
      <div className="mb-3 flex items-end gap-2">
        <label className="grow">
          <span className="field-label">Or a new one</span>
          <input
            className="input input-sm"
            value={name}
            maxLength={60}
            onChange={(event) => setName(event.target.value)}
          />
        </label>
        <button
          type="button"
          className="btn btn-plain btn-sm"
          disabled={name.trim() === ''}
          onClick={() => void create()}
        >
          Make it
        </button>
      </div>
      {told && (
        <p className="notice bad mb-2 text-[13px]" role="alert">
          {told}
        </p>
      )}
      <PlanWords plan={plan} name={sampleName} />
    </>
  );
}

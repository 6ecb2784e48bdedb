import { Choice } from '../../components/Choice.tsx';
import { MakeInPlace } from '../../components/MakeInPlace.tsx';
import { PlanWords } from '../../components/PlanWords.tsx';
import type { StepFormProps } from '../step-form.ts';
import type { ListSettings } from './definition.ts';

export default function ListForm({ settings, change, desk, plan, sampleName, make }: StepFormProps<ListSettings>) {
  return (
    <>
      <Choice
        label="What"
        value={settings.action}
        options={[
          ['add', 'Put them on a list'],
          ['remove', 'Take them off a list'],
        ]}
        onChange={(action) => change({ action })}
      />
      <Choice
        label="List"
        field="list"
        value={settings.list}
        options={[['', 'Choose a list'], ...desk.lists.map((one) => [one.id, one.name] as const)]}
        onChange={(list) => change({ list })}
      />
      <MakeInPlace make={async (name) => change({ list: (await make('list', name)).id })} />
      <PlanWords plan={plan} name={sampleName} />
    </>
  );
}

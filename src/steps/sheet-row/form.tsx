import { useContext } from 'react';
import { bound } from '../../components/bound.ts';
import { FieldPickerContext } from '../../components/field-picker.ts';
import { Choice } from '../../components/fields.tsx';
import { PlanWords } from '../../components/PlanWords.tsx';
import { TokenField } from '../../components/TokenField.tsx';
import type { StepFormProps } from '../step-form.ts';
import type { SheetRowSettings } from './definition.ts';

export default function SheetRowForm(form: StepFormProps<SheetRowSettings>) {
  const { stepId, settings, change, catalogue, plan, sampleName } = form;
  const of = bound(settings, change);
  const { lists = [] } = useContext(FieldPickerContext);
  const tab = catalogue.tabs.find((tab) => tab.id === settings.tab);
  return (
    <>
      <Choice
        label="Sheet"
        field="tab"
        value={settings.tab}
        options={[['', 'Choose a sheet'], ...catalogue.tabs.map((tab) => [tab.id, tab.name] as const)]}
        onChange={(id) => change({ tab: id, cells: {}, key: '' })}
      />
      {tab && (
        <>
          {(lists.length > 0 || settings.each !== '') && (
            <Choice
              label="How many rows"
              {...of('each')}
              options={[
                ['', 'One row for the lead'],
                ...lists.map((list) => [list.key, `One row for each of: ${list.label}`] as const),
              ]}
            />
          )}
          {settings.each !== '' && (
            <p className="mb-2 text-note text-ink-2">
              Of each in the list:{' '}
              {(lists.find((list) => list.key === settings.each)?.columns ?? [])
                .map((name) => `{{ item.${name} }}`)
                .join('  ')}
            </p>
          )}
          {tab.columns.map((column) => (
            <TokenField
              key={`${stepId}-${column.id}`}
              field={`cells.${column.id}`}
              label={column.name}
              single
              value={settings.cells[column.id] ?? ''}
              onChange={(value) => change({ cells: { ...settings.cells, [column.id]: value } })}
            />
          ))}
          <Choice
            label="A row is the same when this column is"
            {...of('key')}
            options={[
              ['', 'Never: always add a row'],
              ...tab.columns.map((column) => [column.id, column.name] as const),
            ]}
          />
          {settings.key !== '' && (
            <Choice
              label="If there is none"
              value={settings.addIfNone ? 'add' : 'leave'}
              options={[
                ['add', 'Add it'],
                ['leave', 'Add nothing'],
              ]}
              onChange={(none) => change({ addIfNone: none === 'add' })}
            />
          )}
          {settings.key !== '' && (
            <Choice
              label="If there is one already"
              {...of('whenThere')}
              options={[
                ['skip', 'Leave it as it is'],
                ['update', 'Update it'],
                ['add', 'Add another'],
              ]}
            />
          )}
        </>
      )}
      {catalogue.tabs.length === 0 && (
        <p className="text-note text-ink-2">
          There is no sheet yet. <a href="/sheets">Make one under Sheets.</a>
        </p>
      )}
      <PlanWords plan={plan} name={sampleName} />
    </>
  );
}

import { useContext } from 'react';
import { within } from '../../client/within.ts';
import { bound } from '../../components/bound.ts';
import { FieldPickerContext, type PickableField } from '../../components/field-picker.ts';
import { Choice } from '../../components/fields.tsx';
import { LikelyFields } from '../../components/LikelyFields.tsx';
import { MakeInPlace } from '../../components/MakeInPlace.tsx';
import { PlanWords } from '../../components/PlanWords.tsx';
import { ThingChoice } from '../../components/ThingChoice.tsx';
import { TokenField } from '../../components/TokenField.tsx';
import { tabThings } from '../../components/tab-things.ts';
import { writeReference } from '../../core/template/field-reference.ts';
import { writeOutput } from '../../core/template/filter-call.ts';
import type { StepFormProps } from '../step-form.ts';
import type { SheetRowSettings } from './definition.ts';

/** Columns of a sheet that takes up all that is known of a lead, with the field of each: the person first, then what they answered. */
function columnsFor(fields: readonly PickableField[]): { name: string; field: PickableField }[] {
  const person = fields.filter((field) => field.group === 'lead' && OF_THE_PERSON.includes(field.key));
  const answers = fields.filter((field) => field.group === 'answers');
  const names = new Map<string, number>();
  return [...person, ...answers].slice(0, MOST_MADE).map((field) => {
    const name = field.label.slice(0, 190) || field.key.slice(0, 190);
    const seen = (names.get(name) ?? 0) + 1;
    names.set(name, seen);
    return { name: seen === 1 ? name : `${name} ${seen}`, field };
  });
}
const OF_THE_PERSON = ['first_name', 'last_name', 'email', 'phone'];
/** Wider than this no sheet is read; more columns are added one by one. */
const MOST_MADE = 40;
const inBraces = (field: PickableField): string => writeOutput(writeReference(field), []);

export default function SheetRowForm(form: StepFormProps<SheetRowSettings>) {
  const { stepId, settings, change, catalogue, plan, sampleName, makeSheet, addColumn } = form;
  const of = bound(settings, change);
  const { fields, lists = [] } = useContext(FieldPickerContext);
  const tab = catalogue.tabs.find((tab) => tab.id === settings.tab);
  return (
    <>
      <ThingChoice
        label="Sheet"
        what="tab"
        field="tab"
        value={settings.tab}
        things={tabThings(catalogue)}
        none="Choose a sheet"
        onChange={(id) => change({ tab: id, cells: {}, key: '' })}
      />
      {!tab && (
        <MakeInPlace
          label="Or a new one; it gets a column for each field"
          make={async (name) => {
            const places = columnsFor(fields);
            const made = await makeSheet(
              name,
              places.length > 0 ? places.map((place) => place.name) : ['Name', 'Email'],
            );
            change({
              tab: made.id,
              key: '',
              cells: Object.fromEntries(
                made.columns.flatMap((column, i) => (places[i] ? [[column.id, inBraces(places[i].field)]] : [])),
              ),
            });
          }}
        />
      )}
      {tab && (
        <>
          <LikelyFields
            wanted={tab.columns
              .filter((column) => !settings.cells[column.id]?.trim())
              .map((column) => ({ key: column.id, label: column.name }))}
            onTake={(taken) => change({ cells: { ...settings.cells, ...taken } })}
          />
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
          <MakeInPlace label="Another column" make={(name) => addColumn(tab.id, name)} />
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
          There is no sheet yet. <a href={within('/sheets')}>Make one under Sheets.</a>
        </p>
      )}
      <PlanWords plan={plan} name={sampleName} />
    </>
  );
}

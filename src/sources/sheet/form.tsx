import { useCallback, useEffect, useState } from 'react';
import { within } from '../../client/within.ts';
import { ChoicePicker } from '../../components/ChoicePicker.tsx';
import { Bare, Line } from '../../components/fields.tsx';
import { EveryChoice, OneOf, SetupForm } from '../../components/SetupForm.tsx';
import { FILTER_WORDS, type FilterTest } from '../../core/sheets/filter-tests.ts';
import { namesOf } from '../../core/words/names-of.ts';
import type { SourceFormProps } from '../source-form.ts';
import type { Choice } from '../source-module.ts';

export interface FilterValue {
  column: string;
  test: FilterTest;
  value: string;
}

/** "Only rows where [Consent] [is] [yes]". */
export function FilterFields({
  columns,
  value,
  onChange,
}: {
  columns: Choice[];
  value: FilterValue | null;
  onChange: (value: FilterValue | null) => void;
}) {
  return (
    <fieldset className="mb-3">
      <legend className="field-label">Which rows</legend>
      <div className="flex flex-wrap gap-2">
        <select
          className="select select-sm"
          style={{ width: 190 }}
          aria-label="Column of the filter"
          value={value?.column ?? ''}
          onChange={(event) =>
            onChange(event.target.value === '' ? null : { test: 'is', value: '', ...value, column: event.target.value })
          }
        >
          <option value="">Every row</option>
          {columns.map((column) => (
            <option key={column.id} value={column.id}>
              Only where {column.label}
            </option>
          ))}
        </select>
        {value && (
          <select
            className="select select-sm"
            style={{ width: 120 }}
            aria-label="Test of the filter"
            value={value.test}
            onChange={(event) => onChange({ ...value, test: event.target.value as FilterTest })}
          >
            {namesOf(FILTER_WORDS).map((test) => (
              <option key={test} value={test}>
                {FILTER_WORDS[test]}
              </option>
            ))}
          </select>
        )}
        {value && !['is_filled', 'is_empty'].includes(value.test) && (
          <Bare
            label="Value of the filter"
            style={{ width: 160 }}
            placeholder=""
            value={value.value}
            onChange={(typed) => onChange({ ...value, value: typed })}
          />
        )}
      </div>
    </fieldset>
  );
}

export default function SheetForm({ choices, create }: SourceFormProps) {
  const [tab, setTab] = useState<Choice | null>(null);
  const [columns, setColumns] = useState<Choice[]>([]);
  const [when, setWhen] = useState<'new' | 'changed'>('new');
  const [from, setFrom] = useState<'end' | 'row'>('end');
  const [fromRow, setFromRow] = useState('2');
  const [filter, setFilter] = useState<FilterValue | null>(null);
  const [everyMinutes, setEvery] = useState(0);
  const load = useCallback((q: string) => choices({ connection: '', q, of: 'tabs' }), [choices]);
  useEffect(() => {
    if (!tab) return;
    let gone = false;
    choices({ connection: '', q: tab.id, of: 'columns' }).then(
      (page) => {
        if (!gone) setColumns(page.choices);
      },
      () => {},
    );
    return () => {
      gone = true;
    };
  }, [choices, tab]);
  return (
    <SetupForm
      button="Listen to this tab"
      ready={tab !== null}
      create={create}
      input={() => ({
        kind: 'sheet',
        tabId: tab?.id,
        when,
        fromRow: from === 'end' ? null : Number(fromRow),
        filter,
        everyMinutes,
      })}
    >
      <ChoicePicker
        label="Which tab"
        what="tab of a sheet"
        load={load}
        chosen={tab ? [tab.id] : []}
        onChoose={(choice) => {
          setTab(choice);
          setFilter(null);
        }}
      />
      <p className="mb-3 text-note">
        <a className="link" href={within('/sheets')}>
          Make a new sheet
        </a>{' '}
        when there is none yet.
      </p>
      {tab && (
        <>
          <OneOf
            label="What counts"
            value={when}
            options={[
              ['new', 'New rows, each once'],
              ['changed', 'New and changed rows, again at each change'],
            ]}
            onChange={setWhen}
          />
          <OneOf
            label="Begin"
            value={from}
            options={[
              ['end', 'Below the last row there is now'],
              ['row', 'At a row, rows that are there already come in too'],
            ]}
            onChange={setFrom}
          />
          {from === 'row' && (
            <Line
              label="Row number"
              value={fromRow}
              style={{ width: 110 }}
              type="number"
              min={1}
              onChange={setFromRow}
            />
          )}
          <FilterFields columns={columns} value={filter} onChange={setFilter} />
          <EveryChoice value={everyMinutes} onChange={setEvery} atOnce />
        </>
      )}
    </SetupForm>
  );
}

import { useContext, useId } from 'react';
import {
  type Condition,
  OF_THE_PERSON,
  partsOf,
  TESTS,
  type Test,
  type TestName,
} from '../core/condition/condition.ts';
import {
  type FieldReference,
  GROUP_LABELS,
  readReference,
  referenceLabel,
  writeReference,
} from '../core/template/field-reference.ts';
import type { Catalogue } from '../core/workflow/step-kind.ts';
import { FieldPickerContext, type PickableField } from './field-picker.ts';
import { Bare } from './fields.tsx';
import { AddOne, TakeAway } from './row-buttons.tsx';

interface Props {
  /** Named for those who cannot see it: "Only when". */
  label: string;
  value: Condition | null;
  onChange: (condition: Condition | null) => void;
  catalogue: Catalogue;
}

type Group = { all: Condition[] } | { any: Condition[] };
const DEEPEST = 3;
const NEW_TEST: Test = { field: '', test: 'is', value: '', to: '', exact: false };

const groupOf = (condition: Condition | null): Group =>
  condition === null ? { all: [] } : 'test' in condition ? { all: [condition] } : condition;
const withParts = (group: Group, parts: Condition[]): Group => ('all' in group ? { all: parts } : { any: parts });

/** Questions put together with all or any, one inside another: every one a plain sentence. */
export function ConditionEditor({ label, value, onChange, catalogue }: Props) {
  const group = groupOf(value);
  return (
    <fieldset className="mb-3" data-field="condition">
      <legend className="field-label">{label}</legend>
      <GroupEditor
        group={group}
        level={0}
        catalogue={catalogue}
        onChange={(next) => onChange(partsOf(next).length === 0 ? null : next)}
      />
    </fieldset>
  );
}

function GroupEditor({
  group,
  level,
  catalogue,
  onChange,
}: {
  group: Group;
  level: number;
  catalogue: Catalogue;
  onChange: (group: Group) => void;
}) {
  const parts = partsOf(group);
  const id = useId();
  const change = (index: number, part: Condition | null) =>
    onChange(
      withParts(
        group,
        part === null
          ? parts.filter((_, i) => i !== index)
          : parts.map((condition, i) => (i === index ? part : condition)),
      ),
    );
  return (
    <div className={level > 0 ? 'rounded-lg border border-base-300 bg-base-200 p-2' : ''}>
      {parts.length > 1 && (
        <select
          className="select select-xs mb-1.5"
          style={{ width: 'auto' }}
          aria-label="How the questions go together"
          value={'all' in group ? 'all' : 'any'}
          onChange={(event) => onChange(event.target.value === 'all' ? { all: parts } : { any: parts })}
        >
          <option value="all">All of these hold</option>
          <option value="any">Any of these holds</option>
        </select>
      )}
      {parts.map((part, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: questions have no name of their own
        <div key={`${id}-${index}`} className="mb-1.5 flex items-start gap-1">
          <div className="min-w-0 grow">
            {'test' in part ? (
              <TestEditor test={part} catalogue={catalogue} onChange={(test) => change(index, test)} />
            ) : (
              <GroupEditor
                group={part}
                level={level + 1}
                catalogue={catalogue}
                onChange={(next) => change(index, next)}
              />
            )}
          </div>
          <TakeAway label="Remove this question" onClick={() => change(index, null)} />
        </div>
      ))}
      <div className="flex gap-1">
        <AddOne onClick={() => onChange(withParts(group, [...parts, NEW_TEST]))}>Add a question</AddOne>
        {level < DEEPEST - 1 && parts.length > 0 && (
          <AddOne
            onClick={() =>
              onChange(withParts(group, [...parts, 'all' in group ? { any: [NEW_TEST] } : { all: [NEW_TEST] }]))
            }
          >
            Add a group
          </AddOne>
        )}
      </div>
    </div>
  );
}

const PERSON_FIELD = '~person';

function TestEditor({
  test,
  catalogue,
  onChange,
}: {
  test: Test;
  catalogue: Catalogue;
  onChange: (test: Test) => void;
}) {
  const ofPerson = OF_THE_PERSON.includes(test.test);
  const { takes } = TESTS[test.test];
  const names = (Object.keys(TESTS) as TestName[]).filter((name) => OF_THE_PERSON.includes(name) === ofPerson);
  const set = (patch: Partial<Test>) => onChange({ ...test, ...patch });
  return (
    <div className="rounded-lg border border-base-300 bg-base-100 p-1.5" data-testid="question">
      <div className="grid grid-cols-2 gap-1">
        <FieldChoice
          label="Which field"
          value={ofPerson ? PERSON_FIELD : test.field}
          person
          onChange={(field) =>
            field === PERSON_FIELD
              ? set({ field: '', test: 'agreed', value: 'text' })
              : set({ field, ...(ofPerson ? { test: 'is' as const, value: '' } : {}) })
          }
        />
        <select
          className="select select-xs"
          aria-label="What is asked"
          value={test.test}
          onChange={(event) => set({ test: event.target.value as TestName })}
        >
          {names.map((name) => (
            <option key={name} value={name}>
              {TESTS[name].words}
            </option>
          ))}
        </select>
      </div>
      {takes !== null && (
        <div className="mt-1 flex gap-1">
          {takes === 'tag' || takes === 'members' || takes === 'channel' || takes === 'column' ? (
            <select
              className="select select-xs"
              aria-label="Which"
              value={test.value}
              onChange={(event) => set({ value: event.target.value })}
            >
              <option value="">Choose</option>
              {takes === 'tag' &&
                catalogue.tags.map((tag) => (
                  <option key={tag.id} value={tag.id}>
                    {tag.name}
                  </option>
                ))}
              {takes === 'members' &&
                catalogue.lists.map((list) => (
                  <option key={list.id} value={list.id}>
                    {list.name}
                  </option>
                ))}
              {takes === 'channel' && (
                <>
                  <option value="text">texts</option>
                  <option value="email">emails</option>
                  <option value="chat">chats</option>
                </>
              )}
              {takes === 'column' &&
                catalogue.tabs.map((tab) => (
                  <optgroup key={tab.id} label={tab.name}>
                    {tab.columns.map((column) => (
                      <option key={column.id} value={`${tab.id}/${column.id}`}>
                        {column.name}
                      </option>
                    ))}
                  </optgroup>
                ))}
            </select>
          ) : takes === 'list' ? (
            <textarea
              className="textarea textarea-xs"
              aria-label="One of these, one per line"
              placeholder="One per line"
              rows={2}
              value={test.value}
              onChange={(event) => set({ value: event.target.value })}
            />
          ) : (
            <Bare
              tiny
              label={takes === 'date' ? 'Which date' : takes === 'days' ? 'How many days' : 'What it is compared with'}
              placeholder={takes === 'date' ? '2026-12-24 or today' : takes === 'days' ? 'days' : ''}
              value={test.value}
              onChange={(typed) => set({ value: typed })}
            />
          )}
          {takes === 'two numbers' && (
            <Bare tiny label="and" value={test.to} onChange={(typed) => set({ to: typed })} />
          )}
        </div>
      )}
    </div>
  );
}

/** Chooses one of the fields at hand. One that is not there any more keeps its place, so that it can be seen. */
export function FieldChoice({
  label,
  value,
  onChange,
  person = false,
  groups,
}: {
  label: string;
  value: string;
  onChange: (reference: string) => void;
  /** Whether the person as a whole can be chosen: their tags and consent. */
  person?: boolean;
  groups?: FieldReference['group'][];
}) {
  const { fields } = useContext(FieldPickerContext);
  const shown = groups ? fields.filter((field) => groups.includes(field.group)) : fields;
  const byGroup = new Map<FieldReference['group'], PickableField[]>();
  for (const field of shown) byGroup.set(field.group, [...(byGroup.get(field.group) ?? []), field]);
  const labelOf = (reference: string) => {
    const read = readReference(reference);
    return read ? referenceLabel(read) : reference;
  };
  const known = value === '' || value === PERSON_FIELD || shown.some((field) => writeReference(field) === value);
  return (
    <select
      className="select select-xs"
      aria-label={label}
      value={value}
      onChange={(event) => onChange(event.target.value)}
    >
      <option value="">Choose a field</option>
      {person && <option value={PERSON_FIELD}>The lead: consent, tags, lists</option>}
      {!known && <option value={value}>{labelOf(value)} (not in this sample)</option>}
      {[...byGroup].map(([group, list]) => (
        <optgroup key={group} label={GROUP_LABELS[group]}>
          {list.map((field) => (
            <option key={field.key} value={writeReference(field)}>
              {field.label}
            </option>
          ))}
        </optgroup>
      ))}
    </select>
  );
}

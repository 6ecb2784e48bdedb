import { useId } from 'react';
import {
  type Condition,
  OF_THE_PERSON,
  partsOf,
  TESTS,
  type Test,
  type TestName,
} from '../core/condition/condition.ts';
import type { Catalogue } from '../core/workflow/step-kind.ts';
import { FieldChoice } from './FieldChoice.tsx';
import { Bare } from './fields.tsx';
import type { Thing } from './found-things.ts';
import { AddOne, TakeAway } from './row-buttons.tsx';
import { ThingChoice } from './ThingChoice.tsx';

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
          others={[[PERSON_FIELD, 'The lead: consent, tags, lists']]}
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
          {takes === 'tag' || takes === 'members' || takes === 'column' ? (
            <ThingChoice
              tiny
              label="Which"
              what={takes === 'members' ? 'list' : takes}
              value={test.value}
              things={thingsOf(catalogue, takes)}
              onChange={(value) => set({ value })}
            />
          ) : takes === 'channel' ? (
            <select
              className="select select-xs"
              aria-label="Which"
              value={test.value}
              onChange={(event) => set({ value: event.target.value })}
            >
              <option value="">Choose</option>
              <option value="text">texts</option>
              <option value="email">emails</option>
              <option value="chat">chats</option>
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

/** What a question about the person is about: tags, lists, columns of sheets. */
function thingsOf({ tags, lists, tabs }: Catalogue, takes: 'tag' | 'members' | 'column'): readonly Thing[] {
  if (takes === 'tag') return tags;
  if (takes === 'members') return lists;
  return tabs.flatMap((tab) =>
    tab.columns.map((column) => ({ id: `${tab.id}/${column.id}`, name: column.name, about: tab.name })),
  );
}

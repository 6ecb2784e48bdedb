import ListFilter from 'lucide-react/icons/list-filter';
import { useMemo, useState } from 'react';
import type { SegmentRow } from '../../app/leads/segments.ts';
import { call } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { pathHere } from '../../client/within.ts';
import { ConditionEditor } from '../../components/ConditionEditor.tsx';
import { FieldPickerContext, UNSAID } from '../../components/field-picker.ts';
import { Bare } from '../../components/fields.tsx';
import { Hint } from '../../components/Hint.tsx';
import NameAndFolder from '../../components/NameAndFolder.tsx';
import { isBlank, type Test } from '../../core/condition/condition.ts';
import { conditionWords } from '../../core/condition/words.ts';
import { queryOfChoice } from '../../core/people/choice-query.ts';
import type { LeadChoice } from '../../core/people/lead-choice.ts';
import { inFolders } from '../../core/words/in-folders.ts';
import { type Catalogue, catalogueNames, memberLabels } from '../../core/workflow/step-kind.ts';
import { segmentFields } from './segment-fields.ts';

interface Props {
  choice: LeadChoice;
  segments: SegmentRow[];
  answers: { answers: string[]; own: string[] };
  catalogue: Catalogue;
  changes: boolean;
}

/** The question a newcomer finds to fill in. */
const FIRST: Test = { field: '', test: 'is', value: '', to: '', exact: false };

const show = (choice: LeadChoice) => {
  // The list stands in the path of its page already.
  const query = queryOfChoice(choice.list ? { ...choice, list: { ...choice.list } } : choice);
  if (pathHere().startsWith('/lists/')) query.delete('list');
  location.assign(`${location.pathname}?${query}`);
};

/** Which leads are shown: a segment kept before, or questions asked now, which can be kept as one. */
export function SegmentPanel({ choice, segments, answers, catalogue, changes }: Props) {
  const segment = segments.find((segment) => segment.id === choice.segment) ?? null;
  const [open, setOpen] = useState(false);
  // Counted when somebody is about to choose: with very many leads that takes a moment.
  const [counts, setCounts] = useState<Map<string, number | null> | null>(null);
  const count = () => {
    if (counts) return;
    setCounts(new Map());
    call('GET', '/api/segments').then(
      (all) => setCounts(new Map(all.map((segmentRow) => [segmentRow.id, segmentRow.people]))),
      () => setCounts(null),
    );
  };
  const [condition, setCondition] = useState(choice.condition ?? segment?.condition ?? null);
  const [name, setName] = useState(segment?.name ?? '');
  const { act, told } = useAction();
  const picker = useMemo(
    () => ({
      fields: segmentFields(answers, catalogue),
      labels: memberLabels(catalogue.lists),
      surroundings: UNSAID,
      setTarget: () => {},
    }),
    [answers, catalogue],
  );
  const words = choice.condition
    ? conditionWords(choice.condition, catalogueNames(catalogue, picker.labels))
    : segment?.words;
  const without = { ...choice, segment: null, condition: null };
  return (
    <div className="min-w-0 grow">
      <div className="flex flex-wrap items-center gap-2">
        <select
          className="select select-sm"
          style={{ width: 'auto', maxWidth: 260 }}
          aria-label="Segment"
          onPointerEnter={count}
          onFocus={count}
          value={choice.condition ? '~' : (choice.segment ?? '')}
          onChange={(event) => show({ ...without, segment: event.target.value || null })}
        >
          <option value="">{choice.list ? 'Everybody on this list' : 'Everybody'}</option>
          {choice.condition && <option value="~">By the questions asked</option>}
          {inFolders(segments, ({ folder }) => folder).map(({ name, rows }) => {
            const options = rows.map((segment) => (
              <option key={segment.id} value={segment.id}>
                {segment.name}
                {typeof counts?.get(segment.id) === 'number' && ` (${counts.get(segment.id)})`}
              </option>
            ));
            return name === '' ? (
              options
            ) : (
              <optgroup key={name} label={name}>
                {options}
              </optgroup>
            );
          })}
        </select>
        {changes && segment && (
          <NameAndFolder
            key={segment.id}
            kind="segment"
            id={segment.id}
            name={segment.name}
            folder={segment.folder}
            folders={[...new Set(segments.map(({ folder }) => folder).filter(Boolean))]}
          />
        )}
        <Hint term="segment" />
        <button
          type="button"
          className="btn btn-plain btn-sm"
          aria-expanded={open}
          data-testid="questions"
          onClick={() => {
            if (isBlank(condition)) setCondition({ all: [FIRST] });
            setOpen(!open);
          }}
        >
          <ListFilter className="size-4" aria-hidden="true" />
          {segment ? 'Change its questions' : choice.condition ? 'Change the questions' : 'Narrow down'}
        </button>
        {words && (
          <span className="text-note text-ink-2" data-testid="choice-words">
            {words}
          </span>
        )}
      </div>
      {open && (
        <FieldPickerContext.Provider value={picker}>
          <div className="sheet-card mt-2 max-w-[640px] p-3">
            <ConditionEditor
              label="Only those of whom"
              value={condition}
              catalogue={catalogue}
              onChange={setCondition}
            />
            <div className="flex flex-wrap items-center gap-2">
              <button
                type="button"
                className="btn btn-primary btn-sm"
                disabled={isBlank(condition)}
                onClick={() => show({ ...without, condition })}
              >
                Show them
              </button>
              {changes && (
                <form
                  className="ml-auto flex flex-wrap items-center gap-1"
                  onSubmit={(event) => {
                    event.preventDefault();
                    void act(async () => {
                      if (segment) await call('PUT', `/api/segments/${segment.id}`, { name, condition }, segment.seen);
                      const id = segment?.id ?? (await call('POST', '/api/segments', { name, condition })).id;
                      show({ ...without, segment: id });
                    });
                  }}
                >
                  <Bare
                    label="Name of the segment"
                    style={{ width: 190 }}
                    maxLength={60}
                    value={name}
                    onChange={setName}
                  />
                  <button
                    type="submit"
                    className="btn btn-plain btn-sm"
                    disabled={isBlank(condition) || name.trim() === ''}
                  >
                    {segment ? 'Keep the change' : 'Keep as a segment'}
                  </button>
                </form>
              )}
            </div>
            {segment && changes && (
              <p className="mt-2 text-note text-ink-2">
                {segment.usedBy.length > 0 ? `Used by ${segment.usedBy.join(', ')}. ` : ''}
                <button
                  type="button"
                  className="link"
                  onClick={() =>
                    void act(async () => {
                      await call('DELETE', `/api/segments/${segment.id}`);
                      show(without);
                    })
                  }
                >
                  Remove this segment
                </button>
                {' (the leads stay)'}
              </p>
            )}
            <Notice told={told} className="mt-2 text-note" />
          </div>
        </FieldPickerContext.Provider>
      )}
    </div>
  );
}

import { useEffect, useRef, useState } from 'react';
import { noteUsed, usedOfLate } from '../client/used-of-late.ts';
import type { Choice, ChoicePage } from '../sources/source-module.ts';
import { Bare } from './fields.tsx';

interface Props {
  /** What is being chosen: "Which form". */
  label: string;
  /** Asks for a page; a new function means another list. */
  load: (query: string, after: string | null) => Promise<ChoicePage>;
  chosen: string[];
  onChoose: (choice: Choice) => void;
  several?: boolean;
  /** Where it is chosen from, for those used of late: "funnel of" an account. */
  what: string;
  /** What a choice that is not live means. */
  notLive?: string;
}

/** So few are seen at once anyway. */
const FEW = 8;

/** Names that more than one choice of a group has: those are told apart by their ids at the service. */
function alikeOf(choices: readonly Choice[]): ReadonlySet<string> {
  const seen = new Set<string>();
  const twice = new Set<string>();
  for (const { label, group = '' } of choices) {
    const name = `${group} ${label}`;
    if (seen.has(name)) twice.add(name);
    seen.add(name);
  }
  return twice;
}

/** A searchable list that loads page by page. */
export function ChoicePicker({ label, load, chosen, onChoose, several = false, what, notLive = 'Not live' }: Props) {
  const [query, setQuery] = useState('');
  const [found, setFound] = useState<{ choices: Choice[]; next: string | null } | null>(null);
  const [problem, setProblem] = useState('');
  const [loading, setLoading] = useState(false);
  const turn = useRef(0);
  const fetchPage = (after: string | null) => {
    const mine = ++turn.current;
    setLoading(true);
    load(query, after).then(
      (page) => {
        if (mine !== turn.current) return;
        setFound((before) => ({
          choices: after === null ? page.choices : [...(before?.choices ?? []), ...page.choices],
          next: page.next,
        }));
        setProblem('');
        setLoading(false);
      },
      (error: unknown) => {
        if (mine !== turn.current) return;
        // What an error says of this list must not stand above another's choices.
        if (after === null) setFound(null);
        setProblem(error instanceof Error ? error.message : String(error));
        setLoading(false);
      },
    );
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: of another list nothing stays on the screen, not even for a moment.
  useEffect(() => {
    setFound(null);
    setProblem('');
  }, [load]);
  const fetchRef = useRef(fetchPage);
  useEffect(() => {
    fetchRef.current = fetchPage;
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: another search or another list begins at its first page.
  useEffect(() => {
    const timer = setTimeout(() => fetchRef.current(null), query === '' ? 0 : 120);
    return () => clearTimeout(timer);
  }, [query, load]);
  const groups = new Map<string, Choice[]>();
  const choices = found?.choices ?? [];
  // Those used of late stand first, also where they are on a later page; a form that was there once may be gone, so it is asked for by its name.
  const late = query === '' && (choices.length > FEW || found?.next) ? usedOfLate(what) : [];
  const alike = alikeOf(choices);
  for (const choice of choices) groups.set(choice.group ?? '', [...(groups.get(choice.group ?? '') ?? []), choice]);
  return (
    <fieldset className="mb-3">
      <legend className="field-label">{label}</legend>
      <Bare label={`Search: ${label}`} className="mb-1" placeholder="Search" value={query} onChange={setQuery} />
      {!found && !problem && <p className="text-ink-2">Asking …</p>}
      {problem && (
        <p className="notice bad" role="alert">
          {problem}
        </p>
      )}
      {found?.choices.length === 0 && <p className="py-2 text-ink-2">Nothing found.</p>}
      {late.length > 0 && (
        <p className="mb-1 flex flex-wrap items-center gap-1.5 text-note">
          <span className="text-ink-2">Used of late:</span>
          {late.map(({ id, name }) => (
            <button key={id} type="button" className="btn btn-plain btn-xs" onClick={() => setQuery(name)}>
              {name}
            </button>
          ))}
        </p>
      )}
      <div className="max-h-72 overflow-y-auto" data-testid="choices">
        {[...groups].map(([group, choices]) => (
          <div key={group}>
            {group !== '' && <p className="px-2 pt-2 text-xs text-ink-2">{group}</p>}
            {choices.map((choice) => (
              <label
                key={choice.id}
                className="flex cursor-pointer items-center gap-3 rounded-lg px-2 py-1.5 hover:bg-base-200"
              >
                <input
                  type={several ? 'checkbox' : 'radio'}
                  className={several ? 'checkbox checkbox-sm' : 'radio radio-sm'}
                  name={label}
                  checked={chosen.includes(choice.id)}
                  onChange={() => {
                    noteUsed(what, { id: choice.id, name: choice.group ?? choice.label });
                    onChoose(choice);
                  }}
                />
                <span className="grow">
                  <span className="font-semibold">{choice.label}</span>
                  {alike.has(`${choice.group ?? ''} ${choice.label}`) && (
                    <span className="block text-xs text-ink-2">{choice.id}</span>
                  )}
                </span>
                {choice.live !== undefined && (
                  <span className={`pill ${choice.live ? 'good' : 'warn'}`}>{choice.live ? 'Live' : notLive}</span>
                )}
              </label>
            ))}
          </div>
        ))}
        {found?.next && (
          <button
            type="button"
            className="btn btn-plain btn-sm my-1"
            disabled={loading}
            onClick={() => fetchPage(found.next)}
          >
            {loading ? 'Asking …' : `Show more (${found.choices.length} so far)`}
          </button>
        )}
      </div>
    </fieldset>
  );
}

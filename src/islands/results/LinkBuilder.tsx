import { useState } from 'react';
import type { NamesView } from '../../app/results/mark-names.ts';
import { CopyLine } from '../../components/CopyLine.tsx';
import { LINK_MARK_KEYS, LINK_MARKS, type LinkMark, markedLink } from '../../core/results/marked-link.ts';
import { MARK_WORDS } from '../../core/results/origin.ts';

/** Makes links that carry marks, out of the words the business uses already. */
export function LinkBuilder({
  words,
  keep,
}: {
  words: NamesView['words'];
  /** Puts a new word among the business's own; null for who may not. */
  keep: ((mark: LinkMark, name: string) => void) | null;
}) {
  const [address, setAddress] = useState('');
  const [marks, setMarks] = useState<Partial<Record<LinkMark, string>>>({});
  const made = markedLink(address, marks, words);
  const empty = address.trim() === '';
  const fresh = LINK_MARK_KEYS.filter((key) => {
    const typed = (marks[key] ?? '').trim();
    return typed !== '' && !words[key].includes(typed);
  });
  return (
    <section className="sheet-card p-4">
      <h2 className="mb-1 text-part">Make a link that says where people come from</h2>
      <p className="mb-3 text-ink-2">
        For a poster, a newsletter, a page of somebody else: whoever follows it is counted there.
      </p>
      <label className="mb-2 block">
        <span className="field-label">Address of the page</span>
        <input
          className="input input-sm w-full"
          type="url"
          value={address}
          placeholder="https://www.wrenfield.example/trial"
          onChange={(event) => setAddress(event.target.value)}
        />
      </label>
      <div className="mb-3 grid grid-cols-2 gap-2">
        {LINK_MARK_KEYS.map((key) => (
          <label key={key} className="block">
            <span className="field-label">{MARK_WORDS[key].one}</span>
            <input
              className="input input-sm w-full"
              list={`words-${key}`}
              value={marks[key] ?? ''}
              maxLength={200}
              onChange={(event) => setMarks({ ...marks, [key]: event.target.value })}
            />
            <datalist id={`words-${key}`}>
              {words[key].map((word) => (
                <option key={word} value={word} />
              ))}
            </datalist>
          </label>
        ))}
      </div>
      {empty ? null : made.ok ? <CopyLine text={made.link} what="Link" /> : <p className="notice warn">{made.why}</p>}
      {keep && !empty && made.ok && fresh.length > 0 && (
        <p className="flex flex-wrap items-center gap-2 text-note text-ink-2">
          New words:
          {fresh.map((key) => {
            const word = new URL(made.link).searchParams.get(LINK_MARKS[key])!;
            return (
              <button key={key} type="button" className="btn btn-plain btn-xs" onClick={() => keep(key, word)}>
                Keep {word}
              </button>
            );
          })}
        </p>
      )}
    </section>
  );
}

import { useState } from 'react';
import type { NamesView } from '../../app/results/mark-names.ts';
import { call } from '../../client/call.ts';
import { ToldLine } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { useQuery } from '../../client/use-query.ts';
import { LINK_MARK_KEYS, type LinkMark } from '../../core/results/marked-link.ts';
import { MARK_WORDS } from '../../core/results/origin.ts';
import type { Place } from '../../core/words/instant.ts';
import { Choose, DaysChoice } from './DaysChoice.tsx';
import { countWords } from './figures.ts';
import { LinkBuilder } from './LinkBuilder.tsx';
import { OwnOutcomes } from './OwnOutcomes.tsx';
import { OwnSites } from './OwnSites.tsx';
import { useAddress } from './use-address.ts';
import { Wide } from './Wide.tsx';

const WHY = { spelling: 'the same but for how it is written', typo: 'the same but for a letter or two' };

/** The names links and ads carry: which are one in two spellings, which nobody knows, which links have none; and a maker of links that do. */
export default function NamesPage({
  first,
  search,
  place,
  now,
  changes,
}: {
  first: NamesView;
  search: string;
  place: Place;
  now: number;
  changes: boolean;
}) {
  const [asked, change] = useAddress(search);
  const [mark, setMark] = useState<LinkMark>('campaign');
  const { value: view, again } = useQuery(['results-names', asked], () => call('GET', `/api/results/names?${asked}`), {
    ...{ first, at: now },
  });
  const { act, busy, told } = useAction();
  const show = (of: LinkMark, name: string, shownAs: string, words: string) =>
    void act(async () => {
      await call('POST', '/api/results/names', { mark: of, name, shownAs });
      await again();
    }, words);
  const asItCame = (of: LinkMark, name: string) =>
    void act(async () => {
      await call('POST', '/api/results/names/as-it-came', { mark: of, name });
      await again();
    }, `${name} is shown as it came.`);
  const names = view.names.filter((one) => one.mark === mark);
  return (
    <>
      <div className="mb-3 flex flex-wrap items-end gap-x-3 gap-y-2">
        <DaysChoice period={view.period} days={view.days} change={change} />
      </div>
      <p className="mb-3 max-w-4xl text-ink-2">
        Names are kept as they came. Putting two together changes how results are shown and nothing else, and can be
        taken back.
      </p>
      <ToldLine told={told} />
      <div className="results-columns">
        <section className="sheet-card p-4">
          <h2 className="mb-2 text-part">Probably one and the same</h2>
          {view.alike.length === 0 ? (
            <p className="text-ink-2">No two names look like one in two spellings.</p>
          ) : (
            <ul className="grid gap-2">
              {view.alike.map(({ mark: of, name, likely, why }) => (
                <li
                  key={`${of} ${name}`}
                  className="flex flex-wrap items-center justify-between gap-2 border-b border-base-300 pb-2 last:border-0"
                >
                  <span>
                    {MARK_WORDS[of].one} <b>{name}</b> looks like <b>{likely}</b>
                    <span className="block text-note text-ink-2">{WHY[why]}</span>
                  </span>
                  {changes && (
                    <span className="flex gap-1">
                      <button
                        type="button"
                        className="btn btn-primary btn-xs"
                        disabled={busy}
                        onClick={() => show(of, name, likely, `${name} is shown as ${likely}.`)}
                      >
                        Show as {likely}
                      </button>
                      <button
                        type="button"
                        className="btn btn-ghost btn-xs"
                        disabled={busy}
                        onClick={() => show(of, name, name, `${name} stays by itself.`)}
                      >
                        They are two
                      </button>
                    </span>
                  )}
                </li>
              ))}
            </ul>
          )}
        </section>
        <LinkBuilder
          words={view.words}
          keep={changes ? (of, name) => show(of, name, name, `${name} is one of your words.`) : null}
        />
        <section className="sheet-card p-4">
          <div className="mb-2 flex items-end justify-between gap-3">
            <h2 className="text-part">Names in use</h2>
            <Choose
              label="Of"
              value={mark}
              options={Object.fromEntries(LINK_MARK_KEYS.map((key) => [key, MARK_WORDS[key].one]))}
              choose={(key) => setMark(key as LinkMark)}
            />
          </div>
          {names.length === 0 ? (
            <p className="text-ink-2">Nobody came with one in these days.</p>
          ) : (
            <Wide what="Names in use">
              <table className="table table-sm w-full">
                <thead>
                  <tr>
                    <th scope="col">As it came</th>
                    <th scope="col" className="text-right">
                      Contacts
                    </th>
                    <th scope="col">Shown as</th>
                  </tr>
                </thead>
                <tbody>
                  {names.slice(0, 100).map(({ name, n, shownAs, known }) => (
                    <tr key={name}>
                      <th scope="row" className="max-w-48 truncate font-medium" title={name}>
                        {name}
                      </th>
                      <td className="text-right tabular-nums">{countWords(n, place.locale)}</td>
                      <td>
                        {shownAs !== name ? (
                          <>
                            {shownAs}{' '}
                            {changes && (
                              <button
                                type="button"
                                className="btn btn-ghost btn-xs"
                                disabled={busy}
                                onClick={() => asItCame(mark, name)}
                              >
                                Take back
                              </button>
                            )}
                          </>
                        ) : known ? (
                          <span className="text-ink-2">one of your words</span>
                        ) : (
                          <ShowAs
                            name={name}
                            words={[...new Set([...view.words[mark], ...names.map((one) => one.shownAs)])].filter(
                              (word) => word !== name,
                            )}
                            disabled={busy || !changes}
                            show={(to) =>
                              show(
                                mark,
                                name,
                                to,
                                to === name ? `${name} is one of your words.` : `${name} is shown as ${to}.`,
                              )
                            }
                          />
                        )}
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </Wide>
          )}
        </section>
        <OwnSites changes={changes} place={place} now={now} />
        <OwnOutcomes changes={changes} place={place} now={now} />
        <section className="sheet-card p-4">
          <h2 className="mb-1 text-part">Links without marks</h2>
          <p className="mb-2 text-ink-2">Who came by these cannot be told apart. Give them a link made above.</p>
          {view.unmarked.length === 0 ? (
            <p className="text-ink-2">Everybody who came by a page in these days came by a marked link.</p>
          ) : (
            <Wide what="Links without marks">
              <table className="table table-sm w-full">
                <thead>
                  <tr>
                    <th scope="col">Page</th>
                    <th scope="col">Came from</th>
                    <th scope="col" className="text-right">
                      Contacts
                    </th>
                  </tr>
                </thead>
                <tbody>
                  {view.unmarked.map(({ page, from, n }) => (
                    <tr key={`${page} ${from}`}>
                      <th scope="row" className="max-w-60 truncate font-medium" title={page}>
                        {page.replace(/^https?:\/\//, '')}
                      </th>
                      <td>{from || <span className="text-ink-2">not told</span>}</td>
                      <td className="text-right tabular-nums">{countWords(n, place.locale)}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </Wide>
          )}
        </section>
      </div>
    </>
  );
}

/** What is to be done with a name nobody knows. */
function ShowAs({
  name,
  words,
  disabled,
  show,
}: {
  name: string;
  words: string[];
  disabled: boolean;
  show: (to: string) => void;
}) {
  return (
    <select
      className="select select-xs max-w-44"
      aria-label={`Show ${name} as`}
      value=""
      disabled={disabled}
      onChange={(event) => event.target.value && show(event.target.value)}
    >
      <option value="">not known yet</option>
      <option value={name}>It is right: one of our words</option>
      {words.map((word) => (
        <option key={word} value={word}>
          Show as {word}
        </option>
      ))}
    </select>
  );
}

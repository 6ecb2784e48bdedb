import { Bare, Choice, Line } from '../../components/fields.tsx';
import { type Call, METHODS } from '../../core/described/description.ts';
import type { CallWork } from '../../core/described/works.ts';
import { Commas, FieldRows, Pick, ReadRows } from './FieldRows.tsx';
import { Rows } from './Rows.tsx';

const AGAIN: readonly (readonly [Call['again'], string])[] = [
  ['by-key', 'Nothing: it knows our key again'],
  ['harmless', 'Nothing: it can be done as often as one likes'],
  ['ask', 'Do it twice, but it can be asked (the call “look”)'],
  ['twice', 'Do it twice, and nobody can tell: a person decides'],
];
const MEANS = [
  ['done', 'it is done'],
  ['again', 'try again'],
  ['final', 'refused for good'],
  ['unsure', 'nobody can tell'],
] as const;

/** One call: what is sent, and what its answer means. */
export function CallEditor({
  call,
  work,
  set,
}: {
  call: Call;
  work: CallWork | null;
  set: (patch: Partial<Call>) => void;
}) {
  const body = (patch: Partial<Call['body']>) => set({ body: { ...call.body, ...patch } });
  return (
    <div className="pt-2">
      {work && Object.keys(work.given).length > 0 && (
        <p className="mb-2 text-note text-ink-2">
          It is given:{' '}
          {Object.entries(work.given).map(([name, words], i) => (
            <span key={name}>
              {i > 0 && '; '}
              <code className="font-mono text-xs">{`{{ given.${name} }}`}</code>{' '}
              {words.charAt(0).toLowerCase() + words.slice(1)}
            </span>
          ))}
          .
        </p>
      )}
      <div className="grid gap-x-3 sm:grid-cols-[8rem_1fr]">
        <Choice
          label="Method"
          small
          value={call.method}
          options={METHODS.map((one) => [one, one] as const)}
          onChange={(method) => set({ method })}
        />
        <Line
          label="Path, behind the address"
          small
          value={call.path}
          maxLength={1000}
          onChange={(path) => set({ path })}
        />
      </div>
      <FieldRows title="In the address" rows={call.query} onChange={(query) => set({ query })} />
      <FieldRows title="Headers" rows={call.headers} onChange={(headers) => set({ headers })} />
      <div className="grid gap-x-3 sm:grid-cols-2">
        <Choice
          label="Sends"
          small
          value={call.body.as}
          options={[
            ['none', 'Nothing'],
            ['json', 'JSON'],
            ['form', 'Form fields'],
            ['xml', 'XML'],
            ['multipart', 'Multipart form data'],
          ]}
          onChange={(as) => body({ as })}
        />
        {call.body.as === 'xml' && (
          <Line label="Outermost element" small value={call.body.root} onChange={(root) => body({ root })} />
        )}
      </div>
      {call.body.as !== 'none' && (
        <FieldRows
          title="Fields it sends"
          rows={call.body.fields}
          typed={call.body.as === 'json'}
          onChange={(fields) => body({ fields })}
        />
      )}
      <div className="grid gap-x-3 sm:grid-cols-2">
        <Choice
          label="Sent a second time it would do"
          small
          value={call.again}
          options={AGAIN}
          onChange={(again) => set({ again })}
        />
        {call.again === 'by-key' && (
          <Line
            label="Header our key goes in, if it is one"
            small
            value={call.keyHeader}
            placeholder="idempotency-key"
            onChange={(keyHeader) => set({ keyHeader })}
          />
        )}
      </div>
      <Rows
        title="What an answer means"
        note="The first line that fits counts. Without one: 2xx is done; 408, 425, 429 and 503 are tried again; other 4xx are final."
        rows={call.outcomes}
        fresh={(): Call['outcomes'][number] => ({ status: '', path: '', is: [], means: 'final', code: '' })}
        onChange={(outcomes) => set({ outcomes })}
      >
        {(row, patch) => (
          <>
            <Bare
              label="Statuses"
              placeholder="200-299"
              className="font-mono"
              style={{ width: '6rem' }}
              value={row.status}
              onChange={(status) => patch({ status })}
            />
            <Bare
              label="Where to look in the answer"
              placeholder="$.result"
              className="font-mono"
              style={{ width: 'auto', flex: '1 1 9rem' }}
              value={row.path}
              onChange={(path) => patch({ path })}
            />
            <Commas
              label="One of these values, with commas; any when empty"
              placeholder="ok, queued"
              style={{ width: 'auto', flex: '2 1 8rem' }}
              value={row.is}
              onChange={(is) => patch({ is })}
            />
            <Pick label="means" value={row.means} options={MEANS} onChange={(means) => patch({ means })} />
          </>
        )}
      </Rows>
      <div className="grid gap-x-3 sm:grid-cols-2">
        <div className="mb-3">
          <span className="field-label">Where the reason of a refusal stands</span>
          <Commas
            label="Where the reason of a refusal stands, with commas"
            placeholder="$.error.message"
            className="w-full"
            value={call.reason}
            onChange={(reason) => set({ reason })}
          />
        </div>
        <Line
          label="Where its list stands, if it answers with one"
          small
          value={call.items}
          placeholder="$.contacts"
          onChange={(items) => set({ items })}
        />
      </div>
      <ReadRows
        title={call.items ? 'What is read of each item' : 'What is read from its answer'}
        reads={call.reads}
        known={work?.reads ?? { id: 'Its name there' }}
        onChange={(reads) => set({ reads })}
      />
      {call.items !== '' && (
        <ReadRows
          title="What is read of the whole answer besides"
          reads={call.besides}
          known={work?.besides ?? {}}
          onChange={(besides) => set({ besides })}
        />
      )}
      {call.items !== '' && <PagingEditor call={call} set={set} />}
    </div>
  );
}

function PagingEditor({ call, set }: { call: Call; set: (patch: Partial<Call>) => void }) {
  const { paging } = call;
  return (
    <div className="grid gap-x-3 sm:grid-cols-2">
      <Choice
        label="Further pages"
        small
        value={paging.way}
        options={[
          ['none', 'There are none'],
          ['cursor', 'The answer says what to ask with: given.cursor'],
          ['link', 'In its Link header'],
          ['page', 'By numbers: given.page'],
          ['since', 'What is newer than the last: given.since'],
        ]}
        onChange={(way) =>
          set({
            paging:
              way === 'cursor' || way === 'since' ? { way, path: '' } : way === 'page' ? { way, first: 1 } : { way },
          })
        }
      />
      {(paging.way === 'cursor' || paging.way === 'since') && (
        <Line
          label={paging.way === 'cursor' ? 'Where it says so' : 'Where the mark of each stands'}
          small
          value={paging.path}
          placeholder={paging.way === 'cursor' ? '$.next' : '$.contacts[*].id'}
          onChange={(path) => set({ paging: { ...paging, path } })}
        />
      )}
    </div>
  );
}

import { useEffect, useMemo, useRef, useState } from 'react';
import type { TemplateView } from '../../app/messages/email-templates.ts';
import { call } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { useDebounced } from '../../client/use-debounced.ts';
import { useQuery } from '../../client/use-query.ts';
import { within } from '../../client/within.ts';
import { FieldPickerContext, UNSAID } from '../../components/field-picker.ts';
import { Area, Bare } from '../../components/fields.tsx';
import { type Block, blankBlock, type EmailLayout } from '../../core/email/layout.ts';
import { BlockList } from './BlockList.tsx';
import { BlockPalette } from './BlockPalette.tsx';
import { LinkCheck } from './LinkCheck.tsx';
import { ReaderView } from './ReaderView.tsx';
import { READER_FIELDS } from './reader-fields.ts';

const newId = () => crypto.randomUUID().slice(0, 8);

/** An email laid out of blocks, with what readers will see beside it. */
export default function TemplateEditor({ first }: { first: TemplateView }) {
  const [name, setName] = useState(first.name);
  const [layout, setLayout] = useState<EmailLayout>(first.layout);
  const [saved, setSaved] = useState({ name: first.name, layout: first.layout, version: first.version });
  const { act, busy, told } = useAction();
  const still = useDebounced(layout, 350);
  const dirty = name !== saved.name || layout !== saved.layout;

  // What readers see follows what is typed, a moment later.
  const preview = useQuery(
    ['shown', first.id, JSON.stringify(still)],
    () => call('POST', '/api/email-templates/show', { layout: still }),
    { first: first.shown, at: 0, live: false },
  );
  const shown = preview.value;
  useEffect(() => {
    const warn = (event: BeforeUnloadEvent) => {
      if (dirty) event.preventDefault();
    };
    window.addEventListener('beforeunload', warn);
    return () => window.removeEventListener('beforeunload', warn);
  }, [dirty]);

  const picker = useMemo(
    () => ({
      fields: READER_FIELDS,
      labels: new Map<string, string>(),
      surroundings: UNSAID,
      setTarget: () => {},
    }),
    [],
  );
  const seen = useRef(first.seen);
  const save = () =>
    act(
      async () => {
        const { version, seen: now } = await call(
          'PUT',
          `/api/email-templates/${first.id}`,
          { name, layout },
          seen.current,
        );
        seen.current = now;
        setSaved({ name, layout, version });
        return version;
      },
      (version) => `Saved as version ${version}. What goes out from now on looks like this.`,
    );
  const blocks = layout.as === 'blocks' ? layout.blocks : [];
  const setBlocks = (next: Block[]) => {
    if (layout.as === 'blocks') setLayout({ ...layout, blocks: next });
  };
  return (
    <FieldPickerContext.Provider value={picker}>
      <div className="flex h-full min-h-0 flex-col">
        <div className="flex flex-wrap items-center gap-3 border-b border-base-300 bg-base-100 px-4 py-2">
          <a className="text-note text-ink-2 hover:underline" href={within('/messages/templates')}>
            Messages
          </a>
          <Bare
            label="Name of the template"
            className="font-semibold"
            style={{ width: 260 }}
            maxLength={100}
            placeholder=""
            value={name}
            onChange={setName}
          />
          <span className="text-note text-ink-2">
            Version {saved.version}
            {first.usedBy.length > 0 && `, used by ${first.usedBy.join(', ')}`}
          </span>
          <span className="grow" />
          <a className="btn btn-ghost btn-sm" href={within(`/api/email-templates/${first.id}/share`)} download>
            Share
          </a>
          {shown.problems.length > 0 && <span className="pill warn">{shown.problems.length} to look at</span>}
          <button
            type="button"
            className="btn btn-primary btn-sm"
            disabled={!dirty || busy}
            onClick={() => void save()}
          >
            {dirty ? 'Save it' : 'Saved'}
          </button>
        </div>
        <Notice
          told={told ?? (preview.problem ? { text: preview.problem, good: false } : null)}
          className="mx-4 mt-2"
        />
        <div className="grid min-h-0 grow grid-cols-[minmax(0,1fr)] max-lg:overflow-y-auto lg:grid-cols-[170px_minmax(0,1fr)_440px]">
          <BlockPalette
            layout={layout}
            html={shown.html}
            onAdd={(kind) => setBlocks([...blocks, blankBlock(kind, newId())])}
            onLayout={setLayout}
          />
          <main className="overflow-y-auto p-4" aria-label="The email">
            <LinkCheck layout={layout} />
            {layout.as === 'html' ? (
              <Area
                label={<>HTML, with fields like {'{{ lead.first_name }}'}</>}
                block="block"
                className="font-mono text-xs"
                value={layout.html}
                rows={28}
                onChange={(text) => setLayout({ as: 'html', html: text })}
              />
            ) : (
              <BlockList blocks={blocks} problems={shown.problems} newId={newId} onChange={setBlocks} />
            )}
          </main>
          <ReaderView shown={shown} />
        </div>
      </div>
    </FieldPickerContext.Provider>
  );
}

import { closestCenter, DndContext, KeyboardSensor, PointerSensor, useSensor, useSensors } from '@dnd-kit/core';
import {
  arrayMove,
  SortableContext,
  sortableKeyboardCoordinates,
  verticalListSortingStrategy,
} from '@dnd-kit/sortable';
import Plus from 'lucide-react/icons/plus';
import { useEffect, useMemo, useRef, useState } from 'react';
import type { TemplateView } from '../../app/messages/email-templates.ts';
import { call } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { useDebounced } from '../../client/use-debounced.ts';
import { useQuery } from '../../client/use-query.ts';
import { EmailPreview } from '../../components/EmailPreview.tsx';
import { FieldPickerContext } from '../../components/field-picker.ts';
import { Area } from '../../components/fields.tsx';
import { type Block, blankBlock, copyBlock, type EmailLayout } from '../../core/email/layout.ts';
import { BlockCard, KINDS } from './BlockCard.tsx';
import { LinkCheck } from './LinkCheck.tsx';
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
      setTarget: () => {},
    }),
    [],
  );
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
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
          <a className="text-note text-ink-2 hover:underline" href="/messages">
            Messages
          </a>
          <input
            className="input input-sm font-semibold"
            style={{ width: 260 }}
            aria-label="Name of the template"
            value={name}
            maxLength={100}
            onChange={(event) => setName(event.target.value)}
          />
          <span className="text-note text-ink-2">
            Version {saved.version}
            {first.usedBy.length > 0 && `, used by ${first.usedBy.join(', ')}`}
          </span>
          <span className="grow" />
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
        <div className="grid min-h-0 grow grid-cols-[170px_minmax(0,1fr)_440px]">
          <aside className="overflow-y-auto border-r border-base-300 bg-base-100 p-3" aria-label="Blocks and fields">
            {layout.as === 'blocks' && (
              <>
                <h2 className="mb-1 font-sans text-note font-semibold text-ink-2">Add a block</h2>
                {KINDS.map(([kind, words]) => (
                  <button
                    key={kind}
                    type="button"
                    className="btn btn-ghost btn-sm w-full justify-start"
                    onClick={() => setBlocks([...blocks, blankBlock(kind, newId())])}
                  >
                    <Plus className="size-4" aria-hidden="true" />
                    {words}
                  </button>
                ))}
                <label className="mt-4 block text-note">
                  <span className="field-label">Colour of buttons</span>
                  <input
                    type="color"
                    value={layout.accent}
                    onChange={(event) => setLayout({ ...layout, accent: event.target.value })}
                  />
                </label>
                <label className="mt-2 block text-note">
                  <span className="field-label">Colour behind</span>
                  <input
                    type="color"
                    value={layout.background}
                    onChange={(event) => setLayout({ ...layout, background: event.target.value })}
                  />
                </label>
              </>
            )}
            <button
              type="button"
              className="btn btn-ghost btn-xs mt-4"
              onClick={() =>
                setLayout(
                  layout.as === 'blocks'
                    ? { as: 'html', html: shown.html }
                    : { as: 'blocks', blocks: [], accent: '#1c6e52', background: '#f2f5f3' },
                )
              }
            >
              {layout.as === 'blocks' ? 'Bring your own HTML' : 'Build it of blocks'}
            </button>
          </aside>
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
              <DndContext
                id="template"
                sensors={sensors}
                collisionDetection={closestCenter}
                onDragEnd={({ active, over }) => {
                  const from = blocks.findIndex((block) => block.id === active.id);
                  const to = blocks.findIndex((block) => block.id === over?.id);
                  if (from >= 0 && to >= 0 && from !== to) setBlocks(arrayMove(blocks, from, to));
                }}
              >
                <SortableContext items={blocks.map((block) => block.id)} strategy={verticalListSortingStrategy}>
                  {blocks.map((block, i) => (
                    <BlockCard
                      key={block.id}
                      block={block}
                      problems={shown.problems
                        .filter((problem) => problem.blockId === block.id)
                        .map((problem) => problem.text)}
                      first={i === 0}
                      last={i === blocks.length - 1}
                      onChange={(next) => setBlocks(blocks.map((one) => (one.id === block.id ? next : one)))}
                      onMove={(by) => setBlocks(arrayMove(blocks, i, i + by))}
                      onCopy={() => setBlocks(blocks.toSpliced(i + 1, 0, copyBlock(block, newId)))}
                      onRemove={() => setBlocks(blocks.filter((one) => one.id !== block.id))}
                    />
                  ))}
                </SortableContext>
                {blocks.length === 0 && <p className="text-ink-2">Nothing in it yet. Add a block from the left.</p>}
              </DndContext>
            )}
          </main>
          <aside className="overflow-y-auto border-l border-base-300 bg-base-200 p-3" aria-label="What readers see">
            <h2 className="mb-2 font-sans text-note font-semibold text-ink-2">
              What Robin Vale, an invented reader, sees
            </h2>
            {shown.problems
              .filter((problem) => problem.blockId === null)
              .map((problem) => (
                <p key={problem.text} className="notice warn mb-2 text-note">
                  {problem.text}
                </p>
              ))}
            <EmailPreview html={shown.html} room={412} height={560} />
            <details className="mt-3">
              <summary className="cursor-pointer text-note text-ink-2">As plain text</summary>
              <p className="mt-1 rounded-lg bg-base-100 p-3 text-note break-words whitespace-pre-wrap">{shown.text}</p>
            </details>
          </aside>
        </div>
      </div>
    </FieldPickerContext.Provider>
  );
}

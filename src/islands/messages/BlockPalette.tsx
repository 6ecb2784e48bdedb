import Plus from 'lucide-react/icons/plus';
import type { BlockKind, EmailLayout } from '../../core/email/layout.ts';
import { KINDS } from './BlockCard.tsx';

/** What an email can be made of: blocks to add, its colours, or HTML that somebody brings. `html` is what it is so far. */
export function BlockPalette({
  layout,
  html,
  onAdd,
  onLayout,
}: {
  layout: EmailLayout;
  html: string;
  onAdd: (kind: BlockKind) => void;
  onLayout: (layout: EmailLayout) => void;
}) {
  return (
    <aside className="overflow-y-auto border-r border-base-300 bg-base-100 p-3" aria-label="Blocks and fields">
      {layout.as === 'blocks' && (
        <>
          <h2 className="mb-1 font-sans text-note font-semibold text-ink-2">Add a block</h2>
          {KINDS.map(([kind, words]) => (
            <button
              key={kind}
              type="button"
              className="btn btn-ghost btn-sm w-full justify-start"
              onClick={() => onAdd(kind)}
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
              onChange={(event) => onLayout({ ...layout, accent: event.target.value })}
            />
          </label>
          <label className="mt-2 block text-note">
            <span className="field-label">Colour behind</span>
            <input
              type="color"
              value={layout.background}
              onChange={(event) => onLayout({ ...layout, background: event.target.value })}
            />
          </label>
        </>
      )}
      <button
        type="button"
        className="btn btn-ghost btn-xs mt-4"
        onClick={() =>
          onLayout(
            layout.as === 'blocks'
              ? { as: 'html', html }
              : { as: 'blocks', blocks: [], accent: '#1c6e52', background: '#f2f5f3' },
          )
        }
      >
        {layout.as === 'blocks' ? 'Bring your own HTML' : 'Build it of blocks'}
      </button>
    </aside>
  );
}

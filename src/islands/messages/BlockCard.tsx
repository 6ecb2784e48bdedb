import { useSortable } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import GripVertical from 'lucide-react/icons/grip-vertical';
import { ItemTools } from '../../components/ItemTools.tsx';
import type { Block, BlockKind } from '../../core/email/layout.ts';
import { BlockForm } from './BlockForm.tsx';

export const KINDS: [BlockKind, string][] = [
  ['heading', 'Heading'],
  ['text', 'Text'],
  ['picture', 'Picture'],
  ['button', 'Button'],
  ['divider', 'Line'],
  ['columns', 'Two columns'],
  ['social', 'Links'],
  ['footer', 'Footer'],
];
const NAMES = new Map(KINDS);

export function BlockCard({
  block,
  problems,
  first,
  last,
  onChange,
  onMove,
  onCopy,
  onRemove,
}: {
  block: Block;
  problems: string[];
  first: boolean;
  last: boolean;
  onChange: (block: Block) => void;
  onMove: (by: -1 | 1) => void;
  onCopy: () => void;
  onRemove: () => void;
}) {
  const { attributes, listeners, setNodeRef, transform, transition } = useSortable({ id: block.id });
  const name = NAMES.get(block.kind)!;
  return (
    <section
      ref={setNodeRef}
      className="sheet-card mb-3 p-3"
      style={{ transform: CSS.Translate.toString(transform), transition }}
      aria-label={name}
      data-block={block.kind}
    >
      <div className="mb-2 flex items-center gap-1">
        <button type="button" className="cursor-grab p-0.5" {...attributes} {...listeners} aria-label={`Drag ${name}`}>
          <GripVertical className="size-4 text-ink-3" aria-hidden="true" />
        </button>
        <h3 className="grow font-sans text-note font-semibold text-ink-2">{name}</h3>
        <ItemTools what="block" {...{ first, last, onMove, onCopy, onRemove }} />
      </div>
      {problems.map((text) => (
        <p key={text} className="notice warn mb-2 text-note">
          {text}
        </p>
      ))}
      <BlockForm block={block} onChange={onChange} />
    </section>
  );
}

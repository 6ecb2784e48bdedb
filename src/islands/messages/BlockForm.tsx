import Plus from 'lucide-react/icons/plus';
import TextAlignCenter from 'lucide-react/icons/text-align-center';
import TextAlignEnd from 'lucide-react/icons/text-align-end';
import TextAlignStart from 'lucide-react/icons/text-align-start';
import { useId } from 'react';
import type { KeptFileView } from '../../app/messages/files.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { FileButton } from '../../components/FileButton.tsx';
import { Bare, Line } from '../../components/fields.tsx';
import { AddOne, TakeAway } from '../../components/row-buttons.tsx';
import { sendFile } from '../../components/send-file.ts';
import { TokenField } from '../../components/TokenField.tsx';
import { Tool } from '../../components/Tool.tsx';
import { type Block, blankBlock, type SimpleBlock } from '../../core/email/layout.ts';

type Props<B> = { block: B; onChange: (block: B) => void };

const ALIGNS = { left: TextAlignStart, center: TextAlignCenter, right: TextAlignEnd } as const;
type Align = keyof typeof ALIGNS;

/** Where in its line a block stands. */
function Stands({ value, onChange }: { value: Align; onChange: (align: Align) => void }) {
  return (
    <fieldset className="-mt-1 flex gap-1" aria-label="Where it stands">
      {(Object.keys(ALIGNS) as Align[]).map((one) => {
        const Icon = ALIGNS[one];
        return (
          <Tool key={one} label={`Stands ${one}`} pressed={one === value} onClick={() => onChange(one)}>
            <Icon className={`size-4 ${one === value ? 'text-primary' : ''}`} aria-hidden="true" />
          </Tool>
        );
      })}
    </fieldset>
  );
}

/** The fields of one block of an email. */
export function BlockForm({ block, onChange }: Props<Block>) {
  switch (block.kind) {
    case 'heading':
    case 'text':
    case 'footer':
      return (
        <>
          <TokenField
            key={block.id}
            field={`block:${block.id}`}
            label={block.kind === 'heading' ? 'Heading' : block.kind === 'footer' ? 'Footer' : 'Text'}
            single={block.kind === 'heading'}
            value={block.text}
            onChange={(text) => onChange({ ...block, text })}
          />
          {block.kind !== 'footer' && (
            <Stands value={block.align} onChange={(align) => onChange({ ...block, align })} />
          )}
        </>
      );
    case 'picture':
      return <PictureForm block={block} onChange={onChange} />;
    case 'button':
      return (
        <>
          <TokenField
            key={`${block.id}-label`}
            field={`block:${block.id}`}
            label="On the button"
            single
            value={block.label}
            onChange={(label) => onChange({ ...block, label })}
          />
          <TokenField
            key={`${block.id}-link`}
            field={`link:${block.id}`}
            label="Leads to"
            single
            value={block.link}
            onChange={(link) => onChange({ ...block, link })}
          />
          <Stands value={block.align} onChange={(align) => onChange({ ...block, align })} />
        </>
      );
    case 'divider':
      return <p className="text-note text-ink-2">A thin line across.</p>;
    case 'social':
      return <SocialForm block={block} onChange={onChange} />;
    case 'columns':
      return (
        <div className="grid grid-cols-2 gap-3">
          <Column title="Left" blocks={block.left} onChange={(left) => onChange({ ...block, left })} />
          <Column title="Right" blocks={block.right} onChange={(right) => onChange({ ...block, right })} />
        </div>
      );
  }
}

function PictureForm({ block, onChange }: Props<Extract<Block, { kind: 'picture' }>>) {
  const { act, told } = useAction();
  const upload = (file: File) =>
    act(async () => {
      const kept = await sendFile<KeptFileView>('/api/files', file);
      if (!kept.picture) throw new Error('Mail programs show PNG, JPEG, GIF and WebP. Choose such a picture.');
      onChange({ ...block, file: kept.id, address: '' });
    });
  return (
    <>
      <div className="mb-3 flex items-center gap-3">
        {block.file && (
          <img src={`/kept/${block.file}`} alt={block.alt} className="h-16 rounded border border-base-300" />
        )}
        <FileButton accept="image/png,image/jpeg,image/gif,image/webp" onFile={(file) => void upload(file)}>
          {block.file ? 'Another picture' : 'Choose a picture'}
        </FileButton>
      </div>
      <Notice told={told} className="mb-2 text-note" />
      {!block.file && (
        <Line
          label="Or its address"
          value={block.address}
          maxLength={2000}
          placeholder="https://"
          onChange={(address) => onChange({ ...block, address })}
        />
      )}
      <Line
        label="What it shows, for those who do not see it"
        value={block.alt}
        maxLength={300}
        onChange={(alt) => onChange({ ...block, alt })}
      />
      <Line
        label="Leads to; empty for nowhere"
        value={block.link}
        maxLength={2000}
        onChange={(link) => onChange({ ...block, link })}
      />
    </>
  );
}

function SocialForm({ block, onChange }: Props<Extract<Block, { kind: 'social' }>>) {
  const id = useId();
  const set = (i: number, patch: Partial<(typeof block.links)[number]>) =>
    onChange({ ...block, links: block.links.map((link, at) => (at === i ? { ...link, ...patch } : link)) });
  return (
    <>
      {block.links.map((link, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: links have no name of their own
        <div key={`${id}-${i}`} className="mb-1.5 flex items-center gap-1">
          <Bare
            label={`Name of link ${i + 1}`}
            className="w-32"
            placeholder="Our podcast"
            maxLength={60}
            value={link.name}
            onChange={(typed) => set(i, { name: typed })}
          />
          <Bare
            label={`Address of link ${i + 1}`}
            className="grow"
            placeholder="https://"
            maxLength={2000}
            value={link.address}
            onChange={(typed) => set(i, { address: typed })}
          />
          <TakeAway
            label={`Remove link ${i + 1}`}
            onClick={() => onChange({ ...block, links: block.links.filter((_, at) => at !== i) })}
          />
        </div>
      ))}
      <AddOne
        disabled={block.links.length >= 8}
        onClick={() => onChange({ ...block, links: [...block.links, { name: '', address: '' }] })}
      >
        Add a link
      </AddOne>
    </>
  );
}

const IN_COLUMNS = [
  ['heading', 'Heading'],
  ['text', 'Text'],
  ['picture', 'Picture'],
  ['button', 'Button'],
] as const;

/** One side of two columns: a short stack of blocks. */
function Column({
  title,
  blocks,
  onChange,
}: {
  title: string;
  blocks: SimpleBlock[];
  onChange: (blocks: SimpleBlock[]) => void;
}) {
  return (
    <fieldset className="min-w-0 rounded-lg border border-base-300 p-2">
      <legend className="field-label px-1">{title}</legend>
      {blocks.map((block) => (
        <div key={block.id} className="mb-2 border-b border-base-300 pb-1 last:border-0">
          <BlockForm
            block={block}
            onChange={(next) => onChange(blocks.map((one) => (one.id === block.id ? (next as SimpleBlock) : one)))}
          />
          <button
            type="button"
            className="btn btn-ghost btn-xs"
            onClick={() => onChange(blocks.filter((one) => one.id !== block.id))}
          >
            Remove
          </button>
        </div>
      ))}
      <div className="flex flex-wrap gap-1">
        {IN_COLUMNS.map(([kind, words]) => (
          <button
            key={kind}
            type="button"
            className="btn btn-ghost btn-xs"
            onClick={() => onChange([...blocks, blankBlock(kind, crypto.randomUUID().slice(0, 8)) as SimpleBlock])}
          >
            <Plus className="size-3.5" aria-hidden="true" />
            {words}
          </button>
        ))}
      </div>
    </fieldset>
  );
}

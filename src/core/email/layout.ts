import { z } from 'zod';

const Id = z.string().min(1).max(40);
const Align = z.enum(['left', 'center', 'right']).default('left');
const Words = z.string().max(20_000);
const Address = z.string().max(2000);
const Colour = z.string().regex(/^#[0-9a-f]{6}$/i, 'Write the colour as #1c6e52');

const Heading = z.object({ id: Id, kind: z.literal('heading'), text: Words, align: Align });
/** Paragraphs at empty lines; **bold** and web addresses as links. */
const Text = z.object({ id: Id, kind: z.literal('text'), text: Words, align: Align });
const Picture = z.object({
  id: Id,
  kind: z.literal('picture'),
  /** A file kept here, or an address; the file counts when both are there. */
  file: z.uuid().nullable().default(null),
  address: Address.default(''),
  /** What it shows, for those who do not see it. */
  alt: z.string().max(300),
  link: Address.default(''),
});
const Button = z.object({ id: Id, kind: z.literal('button'), label: z.string().max(200), link: Address, align: Align });
const Divider = z.object({ id: Id, kind: z.literal('divider') });
const Social = z.object({
  id: Id,
  kind: z.literal('social'),
  links: z.array(z.object({ name: z.string().max(60), address: Address })).max(8),
});
const Footer = z.object({ id: Id, kind: z.literal('footer'), text: Words });

const Simple = z.discriminatedUnion('kind', [Heading, Text, Picture, Button, Divider, Social]);
export type SimpleBlock = z.infer<typeof Simple>;
const Columns = z.object({
  id: Id,
  kind: z.literal('columns'),
  left: z.array(Simple).max(20),
  right: z.array(Simple).max(20),
});

/** One piece of an email, from top to bottom. Texts and addresses may hold fields, as messages do. */
export const Block = z.discriminatedUnion('kind', [Heading, Text, Picture, Button, Divider, Social, Columns, Footer]);
export type Block = z.infer<typeof Block>;
export type BlockKind = Block['kind'];

/** How an email is laid out: of blocks, or HTML that somebody brought. */
export const EmailLayout = z.discriminatedUnion('as', [
  z.object({
    as: z.literal('blocks'),
    blocks: z.array(Block).max(100),
    accent: Colour.default('#1c6e52'),
    background: Colour.default('#f2f5f3'),
  }),
  z.object({ as: z.literal('html'), html: z.string().max(500_000) }),
]);
export type EmailLayout = z.infer<typeof EmailLayout>;

/** Every block, those inside columns too, in reading order. */
export const everyBlock = (blocks: readonly Block[]): Block[] =>
  blocks.flatMap((block): Block[] => (block.kind === 'columns' ? [block, ...block.left, ...block.right] : [block]));

const BLANK: { [Kind in BlockKind]: Omit<Extract<Block, { kind: Kind }>, 'id'> } = {
  heading: { kind: 'heading', text: 'A heading', align: 'left' },
  text: { kind: 'text', text: 'Hi {{ lead.first_name }},\n\n', align: 'left' },
  picture: { kind: 'picture', file: null, address: '', alt: '', link: '' },
  button: { kind: 'button', label: 'See more', link: 'https://', align: 'left' },
  divider: { kind: 'divider' },
  social: { kind: 'social', links: [] },
  columns: { kind: 'columns', left: [], right: [] },
  footer: { kind: 'footer', text: '{{ business.name }}\n\nNo more of these emails: {{ lead.leave_link }}' },
};

export const blankBlock = (kind: BlockKind, id: string): Block => ({ ...structuredClone(BLANK[kind]), id }) as Block;

/** The same block once more, with ids of its own. */
export const copyBlock = (block: Block, newId: () => string): Block => {
  const fresh = <B extends Block>(one: B): B => ({ ...structuredClone(one), id: newId() });
  const copy = fresh(block);
  return copy.kind === 'columns' ? { ...copy, left: copy.left.map(fresh), right: copy.right.map(fresh) } : copy;
};

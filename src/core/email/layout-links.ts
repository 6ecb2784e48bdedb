import { type EmailLayout, everyBlock } from './layout.ts';

const ADDRESS = /\bhttps?:\/\/[^\s<>"')\]]+/gi;
const HREF = /\bhref\s*=\s*["']?(https?:\/\/[^\s"'>]+)/gi;

/** Web addresses a reader can follow from an email, each once, with the first block it stands in; those with fields are left out. */
export function layoutLinks(layout: EmailLayout): { blockId: string | null; address: string }[] {
  const found = new Map<string, string | null>();
  const add = (blockId: string | null, address: string) => {
    const link = address.trim().replace(/(?<![.,;:!?])[.,;:!?]+$/, '');
    if (/^https?:\/\//i.test(link) && !link.includes('{{') && URL.canParse(link) && !found.has(link))
      found.set(link, blockId);
  };
  if (layout.as === 'html') for (const [, address = ''] of layout.html.matchAll(HREF)) add(null, address);
  else
    for (const block of everyBlock(layout.blocks)) {
      if (block.kind === 'button' || block.kind === 'picture') add(block.id, block.link);
      if (block.kind === 'social') for (const link of block.links) add(block.id, link.address);
      if ('text' in block) for (const [address] of block.text.matchAll(ADDRESS)) add(block.id, address);
    }
  return [...found].map(([address, blockId]) => ({ blockId, address }));
}

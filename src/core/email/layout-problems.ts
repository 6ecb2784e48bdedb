import { templateProblem } from '../template/template.ts';
import { type EmailLayout, everyBlock } from './layout.ts';

/** Heavier than this some mail programs cut an email off. Common practice (about 100 kB), no source. */
const HEAVY_BYTES = 100 * 1024;
const LINK =
  /^(https?:\/\/[^\s.]+\.\S+|https?:\/\/(localhost|127\.0\.0\.1)\S*|mailto:[^\s@]+@\S+|tel:\+?[\d ]+|\{\{[^{}\n]+\}\}.*)$/i;

export interface LayoutProblem {
  /** The block it is about; null for the whole. */
  blockId: string | null;
  text: string;
}

/** What a reader would stumble over, in reading order. `html` is what the layout makes. */
export function layoutProblems(layout: EmailLayout, html: string): LayoutProblem[] {
  const found: LayoutProblem[] = [];
  const add = (blockId: string | null, text: string) => found.push({ blockId, text });
  if (layout.as === 'html') {
    const problem = templateProblem(layout.html);
    if (problem) add(null, problem.text);
    if (/<script\b/i.test(layout.html)) add(null, 'Mail programs do not run scripts: take them out.');
    if (/<img\b(?![^>]*\balt=)/i.test(layout.html))
      add(null, 'A picture has no words for those who do not see it (alt).');
    if (layout.html.trim() === '') add(null, 'The email is empty.');
    if (/<a\b[^>]*href\s*=\s*("\s*"|'\s*'|["']?#)/i.test(layout.html)) add(null, 'A link leads nowhere.');
  } else {
    if (layout.blocks.length === 0) add(null, 'The email is empty: add a block.');
    for (const block of everyBlock(layout.blocks)) {
      const words = 'text' in block ? block.text : 'label' in block ? block.label : '';
      const problem = templateProblem(words);
      if (problem) add(block.id, problem.text);
      if (block.kind === 'picture') {
        if (!block.file && block.address.trim() === '') add(block.id, 'Picture: choose a file or give its address.');
        if (block.alt.trim() === '') add(block.id, 'Picture: say what it shows, for those who do not see it.');
        if (block.link.trim() !== '' && !LINK.test(block.link.trim()))
          add(block.id, 'Picture: its link leads nowhere.');
      }
      if (block.kind === 'button') {
        if (block.label.trim() === '') add(block.id, 'Button: it says nothing.');
        if (!LINK.test(block.link.trim())) add(block.id, 'Button: its link leads nowhere.');
      }
      if (block.kind === 'social' && block.links.some((link) => !LINK.test(link.address.trim())))
        add(block.id, 'Social: a link leads nowhere.');
    }
  }
  if (!/\blead\.leave_link\b/.test(html))
    add(
      null,
      'No unsubscribe link: put in the field “Leave link”, or a footer. Until then a plain line with it is added where it goes to many.',
    );
  if (new TextEncoder().encode(html).length > HEAVY_BYTES)
    add(null, 'The email is heavier than 100 kB: some mail programs cut it off.');
  return found;
}

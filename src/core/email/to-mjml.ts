import { escapeHtml } from '../template/email-html.ts';
import { templatePieces } from '../template/template.ts';
import type { Block, EmailLayout, SimpleBlock } from './layout.ts';

type Blocks = Extract<EmailLayout, { as: 'blocks' }>;

/** Where a kept file is shown from: its address by id. */
export type FileAddress = (fileId: string) => string;

/** Words made safe for HTML, with the fields in them left as they are: those are escaped when they are filled. */
const safe = (words: string): string =>
  templatePieces(words)
    .map((piece) => (piece.kind === 'field' ? piece.source : escapeHtml(piece.text)))
    .join('');

/** An address inside double quotes: what is written in a field keeps to single ones. */
const quoted = (address: string): string =>
  templatePieces(address.trim())
    .map((piece) => (piece.kind === 'field' ? piece.source.replaceAll('"', "'") : escapeHtml(piece.text)))
    .join('');

const ADDRESS = /\bhttps?:\/\/[^\s<>"'&]+(?:&amp;[^\s<>"'&]+)*[^\s<>"'.,;:!?)&]/g;

/** Paragraphs at empty lines, line breaks kept, **bold**, web addresses as links. */
function rich(words: string): string {
  const paragraphs = safe(words.replace(/\r\n?/g, '\n'))
    .split(/\n{2,}/)
    .map((one) => one.trim())
    .filter(Boolean);
  return paragraphs
    .map((paragraph) => {
      const bold = paragraph.replace(/\*\*([^*\n]+)\*\*/g, '<strong>$1</strong>');
      const linked = bold.replace(ADDRESS, (url) => `<a href="${url}">${url}</a>`);
      return `<p style="margin:0 0 1em">${linked.replace(/\n/g, '<br>')}</p>`;
    })
    .join('\n');
}

function simple(block: SimpleBlock, accent: string, fileAddress: FileAddress): string {
  switch (block.kind) {
    case 'heading':
      return `<mj-text align="${block.align}" font-size="24px" font-weight="700" line-height="1.25">${safe(block.text)}</mj-text>`;
    case 'text':
      return `<mj-text align="${block.align}">${rich(block.text)}</mj-text>`;
    case 'picture': {
      const source = block.file ? fileAddress(block.file) : quoted(block.address);
      if (source === '') return '';
      const link = block.link.trim() === '' ? '' : ` href="${quoted(block.link)}"`;
      return `<mj-image src="${source}" alt="${quoted(block.alt)}"${link} />`;
    }
    case 'button':
      return `<mj-button align="${block.align}" href="${quoted(block.link)}" background-color="${accent}">${safe(block.label)}</mj-button>`;
    case 'divider':
      return '<mj-divider border-width="1px" border-color="#d5dcd7" />';
    case 'social': {
      const links = block.links
        .filter((link) => link.name.trim() !== '' && link.address.trim() !== '')
        .map((link) => `<a href="${quoted(link.address)}">${safe(link.name)}</a>`);
      return links.length === 0
        ? ''
        : `<mj-text align="center" font-size="14px">${links.join(' &nbsp;·&nbsp; ')}</mj-text>`;
    }
  }
}

/** An email of blocks as MJML, fields still in it. */
export function toMjml({ blocks, accent, background }: Blocks, fileAddress: FileAddress): string {
  const one = (block: Block): string => {
    if (block.kind === 'columns') {
      const column = (side: SimpleBlock[]) =>
        `<mj-column>${side.map((each) => simple(each, accent, fileAddress)).join('')}</mj-column>`;
      return `<mj-section background-color="#ffffff" padding="0">${column(block.left)}${column(block.right)}</mj-section>`;
    }
    if (block.kind === 'footer')
      return `<mj-section padding="12px 0"><mj-column><mj-text align="center" font-size="13px" color="#55625a">${rich(block.text)}</mj-text></mj-column></mj-section>`;
    return `<mj-section background-color="#ffffff" padding="0"><mj-column>${simple(block, accent, fileAddress)}</mj-column></mj-section>`;
  };
  return `<mjml>
<mj-head>
<mj-attributes>
<mj-all font-family="Helvetica, Arial, sans-serif" />
<mj-text font-size="16px" line-height="1.5" color="#1c2922" />
<mj-button border-radius="8px" font-size="16px" font-weight="600" />
</mj-attributes>
</mj-head>
<mj-body background-color="${background}" width="600px">
${blocks.map(one).join('\n')}
</mj-body>
</mjml>`;
}

/** The plain-text part that goes along: the same words in the same order. */
export function layoutText({ blocks }: Blocks): string {
  const line = (block: Block): string => {
    switch (block.kind) {
      case 'heading':
        return block.text;
      case 'text':
      case 'footer':
        return block.text.replace(/\*\*([^*\n]+)\*\*/g, '$1');
      case 'picture':
        return [block.alt, block.link].filter((one) => one.trim() !== '').join(': ');
      case 'button':
        return `${block.label}: ${block.link}`;
      case 'divider':
        return '- - -';
      case 'social':
        return block.links.map((link) => `${link.name}: ${link.address}`).join('\n');
      case 'columns':
        return [...block.left, ...block.right].map(line).join('\n\n');
    }
  };
  return blocks
    .map((block) => line(block).trim())
    .filter(Boolean)
    .join('\n\n');
}

import { decodeHTML } from 'entities';
import { SaxesParser } from 'saxes';

/** An element as it stands in its document. */
export interface XmlElement {
  /** With its prefix, if it has one. */
  name: string;
  attributes: Record<string, string>;
  children: (XmlElement | string)[];
  /** What stands between its tags, as it was written but for its references. */
  inner: string;
}

/** Where a document stops being XML 1.0. */
export class BrokenXml extends Error {
  constructor(
    readonly code: string,
    readonly line: number,
  ) {
    super(`The XML is broken at line ${line}: ${code}`);
  }
}

/** Stops at the first thing that is not well formed, without the cost of an error for each. */
class Strict extends SaxesParser {
  override fail(message: string): this {
    throw new BrokenXml(message, this.line);
  }
}

/** Parts of a document whose ampersands and characters are no markup. */
const SECTIONS = /<!--[\s\S]*?-->|<!\[CDATA\[[\s\S]*?\]\]>|<\?[\s\S]*?\?>/g;
const REFERENCE = /&(?:#\d{1,7};|#x[\da-f]{1,6};|[a-z][a-z\d]{0,31};)?|\]\]>/gi;
const OF_XML = new Set(['&lt;', '&gt;', '&amp;', '&quot;', '&apos;']);
/** What XML 1.0 (§2.2) has no place for. */
const NO_CHARACTERS = /[\0-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff]/g;
const isXmlCharacter = (code: number) =>
  (code >= 0x20 && code <= 0xd7ff) || (code >= 0xe000 && code <= 0xfffd) || (code >= 0x10000 && code <= 0x10ffff);

/** A reference as a strict parser takes it: those of HTML by their number, an ampersand that is none as an ampersand. */
function reference(written: string): string {
  if (written === ']]>') return ']]&gt;';
  if (OF_XML.has(written)) return written;
  if (written.startsWith('&#')) {
    const code =
      written[2] === 'x' || written[2] === 'X' ? Number.parseInt(written.slice(3), 16) : Number(written.slice(2, -1));
    return isXmlCharacter(code) || code === 9 || code === 10 || code === 13 ? `&#${code};` : `&amp;${written.slice(1)}`;
  }
  const said = written.length > 1 ? decodeHTML(written) : written;
  if (said === written) return `&amp;${written.slice(1)}`;
  return Array.from(said, (one) => `&#${one.codePointAt(0)};`).join('');
}

/** What everybody writes though XML does not allow it: references of HTML, bare ampersands, stray control characters, blank lines before the start. */
function tidied(text: string): string {
  const clean = text.trimStart().replace(/\r\n?/g, '\n').replace(NO_CHARACTERS, '');
  const parts: string[] = [];
  let at = 0;
  for (const { 0: section, index } of clean.matchAll(SECTIONS)) {
    parts.push(clean.slice(at, index).replace(REFERENCE, reference), section);
    at = index + section.length;
  }
  parts.push(clean.slice(at).replace(REFERENCE, reference));
  return parts.join('');
}

/**
 * A document (XML 1.0) as its elements. Cuts its texts out of the document instead of gathering them by the letter, so that twice the document costs
 * twice. Look for its dangers (`xmlDanger`) before. Throws BrokenXml.
 */
export function readXmlTree(text: string): XmlElement {
  const source = tidied(text);
  const parser = new Strict({ xmlns: false, position: true });
  const root: XmlElement = { name: '', attributes: {}, children: [], inner: '' };
  const open: { element: XmlElement; from: number }[] = [{ element: root, from: 0 }];
  const put = (child: XmlElement | string) => open.at(-1)!.element.children.push(child);
  parser.on('text', put);
  parser.on('cdata', put);
  parser.on('opentag', ({ name, attributes }) => {
    const element = { name, attributes, children: [], inner: '' };
    put(element);
    open.push({ element, from: parser.position });
  });
  parser.on('closetag', ({ isSelfClosing }) => {
    const { element, from } = open.pop()!;
    if (!isSelfClosing) element.inner = source.slice(from, source.lastIndexOf('</', parser.position - 1));
  });
  parser.write(source).close();
  return root.children.find((child) => typeof child !== 'string')!;
}

/** The first child of that name. */
export const childOf = (element: XmlElement | undefined, name: string): XmlElement | undefined =>
  element?.children.find((child): child is XmlElement => typeof child !== 'string' && child.name === name);

export const childrenOf = (element: XmlElement | undefined, name: string): XmlElement[] =>
  element?.children.filter((child): child is XmlElement => typeof child !== 'string' && child.name === name) ?? [];

/** Its own words, without those of the elements in it. */
export const ownText = (element: XmlElement | undefined): string =>
  element?.children
    .filter((child) => typeof child === 'string')
    .join('')
    .trim() ?? '';

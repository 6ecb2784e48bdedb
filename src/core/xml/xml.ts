import type { SourceProblem } from '../source/source-kind.ts';
import { BrokenXml, ownText, readXmlTree, type XmlElement } from './xml-tree.ts';

/** A document as a value, or why it is none. */
export type XmlRead = { ok: true; value: unknown } | SourceProblem;

const MAX_DEPTH = 100;
const MOST_TAGS = 200_000;

/** XML 1.0 as plain objects: repeated elements become lists, attributes fields. Documents that declare entities are refused. */
export function readXml(bytes: Uint8Array): XmlRead {
  const text = decodeXml(bytes);
  if (text === null)
    return { ok: false, code: 'charset', problem: 'The XML is not in the encoding it says. Send it as UTF-8.' };
  const problem = xmlDanger(text);
  if (problem) return problem;
  try {
    const root = readXmlTree(text);
    return { ok: true, value: Object.fromEntries([[root.name, plain(root)]]) };
  } catch (error) {
    if (!(error instanceof BrokenXml)) throw error;
    return { ok: false, code: 'not-xml', problem: `The XML is broken at line ${error.line}.` };
  }
}

/** An element of nothing but words is its words; others are an object, with their own words under "text". */
function plain(element: XmlElement): unknown {
  const said = ownText(element);
  const inside = element.children.filter((child) => typeof child !== 'string');
  const fields: [string, unknown][] = [
    ...Object.entries(element.attributes).map(([name, value]): [string, unknown] => [name, value.trim()]),
    ...inside.map((xmlElement): [string, unknown] => [xmlElement.name, plain(xmlElement)]),
  ];
  if (fields.length === 0) return said;
  if (said !== '') fields.push(['text', said]);
  const byName = new Map<string, unknown[]>();
  for (const [name, value] of fields) {
    const before = byName.get(name);
    if (before) before.push(value);
    else byName.set(name, [value]);
  }
  return Object.fromEntries([...byName].map(([name, values]) => [name, values.length === 1 ? values[0] : values]));
}

/** The text by its byte-order mark or its declaration; UTF-8 when neither says. Null when the bytes do not fit. */
export function decodeXml(bytes: Uint8Array): string | null {
  const start = Buffer.from(bytes.subarray(0, 200)).toString('latin1');
  const mark =
    bytes[0] === 0xff && bytes[1] === 0xfe ? 'utf-16le' : bytes[0] === 0xfe && bytes[1] === 0xff ? 'utf-16be' : null;
  const said = /^(?:\xEF\xBB\xBF)?\s*<\?xml[^>]*encoding=["']([\w.-]{1,40})["']/.exec(start)?.[1];
  try {
    return new TextDecoder(mark ?? said ?? 'utf-8', { fatal: true }).decode(bytes);
  } catch {
    return null;
  }
}

/** Sections whose inside is no markup, by how they open and shut. */
const SECTIONS = [
  ['<!--', '-->', 'a comment'],
  ['<![CDATA[', ']]>', 'a CDATA section'],
  ['<?', '?>', 'an instruction'],
] as const;

/**
 * What makes a document dangerous to read: entities of its own (they can multiply without end), depth, sheer number, and openings that never
 * shut, which parsers look for the end of again and again. Goes through it once.
 */
export function xmlDanger(text: string): Extract<XmlRead, { ok: false }> | null {
  if (/<!ENTITY/i.test(text))
    return {
      ok: false,
      code: 'entities',
      problem: 'The XML declares entities of its own, which can be used to blow it up. Send it without them.',
    };
  let depth = 0;
  let tags = 0;
  for (let at = text.indexOf('<'); at >= 0; at = text.indexOf('<', at)) {
    const section = SECTIONS.find(([open]) => text.startsWith(open, at));
    if (section) {
      const end = text.indexOf(section[1], at + section[0].length);
      if (end < 0)
        return { ok: false, code: 'not-xml', problem: `The XML is broken: ${section[2]} is opened and not shut.` };
      at = end + section[1].length;
      continue;
    }
    const next = text.charCodeAt(at + 1);
    if (next === 33) {
      // A declaration may hold others: what it opens is looked at too.
      at += 2;
      continue;
    }
    const end = text.indexOf('>', at);
    if (end < 0) return { ok: false, code: 'not-xml', problem: 'The XML is broken: a tag is opened and not shut.' };
    if (next === 47) depth--;
    else {
      if (++tags > MOST_TAGS)
        return { ok: false, code: 'too-many', problem: `It has more than ${MOST_TAGS} XML tags.` };
      if (text.charCodeAt(end - 1) !== 47 && ++depth > MAX_DEPTH)
        return { ok: false, code: 'too-deep', problem: `The XML is nested more than ${MAX_DEPTH} levels deep.` };
    }
    at = end;
  }
  return null;
}

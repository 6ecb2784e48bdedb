import type { Readable } from 'node:stream';
import { SaxesParser } from 'saxes';
import yauzl from 'yauzl';
import { storableText } from '../core/fields/field.ts';
import { TableProblem, type TableTab } from './table.ts';

/*
 * XLSX (ECMA-376, Office Open XML), read as a stream: only the parts that are needed are unpacked, never the whole workbook at
 * once, and everything is counted while it comes out. A library that loads a workbook cannot be stopped half way.
 */

/** Most bytes one part may unpack to, and how many times its packed size. A packed bomb is far beyond both. */
const MOST_UNPACKED = 600 * 1024 * 1024;
const MOST_RATIO = 400;
const RATIO_COUNTS_FROM = 20 * 1024 * 1024;
const MOST_ENTRIES = 4000;
export interface WorkbookTab extends TableTab {
  part: string;
}

export interface Workbook {
  zip: yauzl.ZipFile;
  parts: Map<string, yauzl.Entry>;
  tabs: WorkbookTab[];
  system1904: boolean;
}

export const broken = (why: string) =>
  new TableProblem(
    'broken-workbook',
    `The workbook cannot be read: ${why}. Open it, save it again as XLSX, and retry.`,
  );

export function openZip(bytes: Buffer): Promise<{ zip: yauzl.ZipFile; parts: Map<string, yauzl.Entry> }> {
  return new Promise((resolve, reject) => {
    yauzl.fromBuffer(bytes, { lazyEntries: true, decodeStrings: true }, (error, zip) => {
      if (error || !zip) return reject(broken('it is not a whole ZIP file'));
      const parts = new Map<string, yauzl.Entry>();
      zip.on('entry', (entry: yauzl.Entry) => {
        if (parts.size >= MOST_ENTRIES) return reject(broken(`it has more than ${MOST_ENTRIES} parts`));
        parts.set(entry.fileName.toLowerCase(), entry);
        zip.readEntry();
      });
      zip.on('end', () => resolve({ zip, parts }));
      zip.on('error', () => reject(broken('its ZIP directory is damaged')));
      zip.readEntry();
    });
  });
}

/** The unpacked bytes of a part, counted as they come. */
export async function* unpack(book: Pick<Workbook, 'zip'>, entry: yauzl.Entry): AsyncGenerator<Buffer> {
  const bomb = new TableProblem(
    'too-big-unpacked',
    'The workbook unpacks to far more than it could hold, like a bomb, and was not read.',
  );
  if (entry.uncompressedSize > MOST_UNPACKED) throw bomb;
  const stream = await new Promise<Readable>((resolve, reject) =>
    book.zip.openReadStream(entry, (error, opened) =>
      opened ? resolve(opened) : reject(broken(error?.message ?? 'a part is missing')),
    ),
  );
  let size = 0;
  try {
    for await (const chunk of stream as AsyncIterable<Buffer>) {
      size += chunk.length;
      if (size > MOST_UNPACKED || (size > RATIO_COUNTS_FROM && size > entry.compressedSize * MOST_RATIO)) throw bomb;
      yield chunk;
    }
  } catch (error) {
    throw error instanceof TableProblem ? error : broken('a part of it is damaged');
  } finally {
    stream.destroy();
  }
}

export type Attributes = Record<string, string>;
export interface Handlers {
  open(name: string, attributes: Attributes): void;
  close(name: string): void;
  text?(text: string): void;
}

export const plainName = (name: string) => name.slice(name.indexOf(':') + 1);

/** Feeds one part through an XML parser; after each piece, `after` can take what has been found. */
export async function* parsePart(
  book: Pick<Workbook, 'zip' | 'parts'>,
  name: string,
  handlers: Handlers,
): AsyncGenerator<void> {
  const entry = book.parts.get(name.toLowerCase());
  if (!entry) return;
  const parser = new SaxesParser();
  let problem: Error | null = null;
  parser.on('doctype', () => {
    problem = broken('it declares a document type');
  });
  parser.on('error', () => {
    problem ??= broken(`its part ${name} is not well-formed XML`);
  });
  parser.on('opentag', (tag) => handlers.open(plainName(tag.name), tag.attributes as Attributes));
  parser.on('closetag', (tag) => handlers.close(plainName(tag.name)));
  if (handlers.text) parser.on('text', (text) => handlers.text!(text));
  const decoder = new TextDecoder('utf-8');
  for await (const chunk of unpack(book, entry)) {
    parser.write(decoder.decode(chunk, { stream: true }));
    if (problem) throw problem;
    yield;
  }
  parser.close();
  if (problem) throw problem;
  yield;
}

export async function readPart(book: Pick<Workbook, 'zip' | 'parts'>, name: string, handlers: Handlers): Promise<void> {
  for await (const _ of parsePart(book, name, handlers));
}

export async function openWorkbook(bytes: Buffer): Promise<Workbook> {
  const { zip, parts } = await openZip(bytes);
  const book: Workbook = { zip, parts, tabs: [], system1904: false };
  const targets = new Map<string, string>();
  const find = (suffix: string) => [...parts.keys()].find((name) => name.endsWith(suffix));
  const main = find('xl/workbook.xml') ?? find('workbook.xml');
  if (!main)
    throw new TableProblem('not-a-workbook', 'This is a ZIP file but not a workbook. Save the table as XLSX or CSV.');
  const folder = main.slice(0, main.lastIndexOf('/') + 1);
  await readPart(book, `${folder}_rels/workbook.xml.rels`, {
    open: (name, a) => {
      if (name === 'Relationship' && a.Id && a.Target)
        targets.set(a.Id, a.Target.startsWith('/') ? a.Target.slice(1) : `${folder}${a.Target}`);
    },
    close: () => {},
  });
  await readPart(book, main, {
    open: (name, a) => {
      if (name === 'workbookPr') book.system1904 = a.date1904 === '1' || a.date1904 === 'true';
      const id = Object.entries(a).find(([key]) => plainName(key) === 'id' && key !== 'id')?.[1];
      const part = targets.get(id ?? '');
      // ECMA-376 Part 1 §18.2.19: visible when nothing is said.
      if (name === 'sheet' && part)
        book.tabs.push({
          id: a.sheetId ?? '',
          name: storableText(a.name ?? ''),
          hidden: a.state === 'hidden' || a.state === 'veryHidden',
          part,
        });
    },
    close: () => {},
  });
  if (book.tabs.length === 0) throw broken('it has no sheet');
  return book;
}

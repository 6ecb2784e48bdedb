import { nestsDeeperThan, parseJson } from '../json.ts';
import { readXml } from '../xml/xml.ts';

/** An answer of a service as it came. */
export interface Reply {
  status: number;
  /** Names in lower case. */
  headers: Record<string, string>;
  bytes: Uint8Array;
  /** The answer was longer than is taken. */
  cut: boolean;
}

export type Data = { ok: true; value: unknown } | { ok: false; code: string; problem: string };

const UTF8 = new TextDecoder('utf-8', { fatal: true });
const MAX_DEPTH = 100;
const no = (code: string, problem: string): Data => ({ ok: false, code, problem });

/** What an answer says, as data: JSON, XML or form fields, told by what it is said to be and by what it looks like. Nothing is `null`. */
export function readReply({ headers, bytes, cut }: Pick<Reply, 'headers' | 'bytes' | 'cut'>): Data {
  if (cut) return no('too-long', 'It answered more than can be taken at once.');
  if (bytes.length === 0) return { ok: true, value: null };
  const [said = '', ...parameters] = (headers['content-type'] ?? '').toLowerCase().split(';');
  const type = said.trim();
  if (/^(application|text)\/([\w.-]+\+)?xml$/.test(type)) return xmlData(bytes);
  const charset =
    parameters.map((one) => /^\s*charset\s*=\s*"?([\w.:-]+)"?\s*$/.exec(one)?.[1]).find(Boolean) ?? 'utf-8';
  let text: string;
  try {
    text = charset === 'utf-8' ? UTF8.decode(bytes) : new TextDecoder(charset, { fatal: true }).decode(bytes);
  } catch {
    return no('charset', `It answered in an encoding that is not the one it says (${charset.slice(0, 30)}).`);
  }
  const start = text.trimStart().slice(0, 200).toLowerCase();
  if (start === '') return { ok: true, value: null };
  if (type === 'text/html' || start.startsWith('<!doctype html') || start.startsWith('<html'))
    return no('html', 'It answered with a web page where data was expected.');
  if (start.startsWith('<')) return xmlData(bytes);
  if (type === 'application/x-www-form-urlencoded')
    return { ok: true, value: Object.fromEntries(new URLSearchParams(text)) };
  if (nestsDeeperThan(text, MAX_DEPTH))
    return no('too-deep', `Its answer is nested more than ${MAX_DEPTH} levels deep.`);
  try {
    return { ok: true, value: parseJson(text) };
  } catch {
    return no('not-data', 'It answered something that is not understood.');
  }
}

function xmlData(bytes: Uint8Array): Data {
  const read = readXml(bytes);
  return read.ok ? read : no(read.code, 'It answered with XML that cannot be read.');
}

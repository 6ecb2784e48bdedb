import { nestsDeeperThan, parseJson } from '../../core/json.ts';
import type { RawArrival } from '../../core/source/source-kind.ts';
import { readXml } from '../../core/xml/xml.ts';
import type { Body } from './body.ts';
import { readMultipart } from './multipart.ts';
import { NamedValues, TOO_MANY } from './named-values.ts';

const utf8 = new TextDecoder('utf-8', { fatal: true });
/** JSON.parse survives any depth Node can hold, but nobody sends a lead 200 levels deep: told before parsing. */
const MAX_DEPTH = 200;

/**
 * Reads a body as what its content type says: JSON (RFC 8259), a URL-encoded form (WHATWG URL §5), multipart form data
 * (RFC 7578) or XML. Every refusal says what to do about it.
 */
export async function readBody(raw: RawArrival): Promise<Body> {
  if (raw.body.length === 0)
    return { ok: false, code: 'empty', problem: 'The body is empty: send JSON or form fields.' };
  const type = raw.contentType.split(';')[0]!.trim().toLowerCase();
  if (type === 'multipart/form-data') return readMultipart(raw);
  if (/^(application|text)\/([\w.-]+\+)?xml$/.test(type)) return readXml(raw.body);
  let text: string;
  try {
    text = utf8.decode(raw.body);
  } catch {
    return { ok: false, code: 'not-utf8', problem: 'The body is not valid UTF-8. Send it as UTF-8.' };
  }
  if (type === 'application/x-www-form-urlencoded') return readForm(text);
  if (type !== '' && !/^(application|text)\/([\w.-]+\+)?json$/.test(type) && type !== 'text/plain')
    return {
      ok: false,
      code: 'content-type',
      problem: `The content type "${type.slice(0, 80)}" is not understood. Send JSON, form fields, multipart form data or XML.`,
    };
  if (nestsDeeperThan(text, MAX_DEPTH))
    return { ok: false, code: 'too-deep', problem: `It is nested more than ${MAX_DEPTH} levels deep.` };
  try {
    return { ok: true, value: parseJson(text) };
  } catch (error) {
    const where = /position (\d+)/.exec(error instanceof Error ? error.message : '')?.[1];
    return {
      ok: false,
      code: 'not-json',
      problem: `The body is not valid JSON${where ? `: it breaks off at character ${Number(where) + 1}` : ''}.`,
    };
  }
}

function readForm(text: string): Body {
  const values = new NamedValues();
  for (const [name, value] of new URLSearchParams(text)) if (!values.add(name, value)) return TOO_MANY;
  return { ok: true, value: values.value() };
}

import busboy from 'busboy';
import type { RawArrival } from '../../core/source/source-kind.ts';
import type { Body } from './body.ts';
import { NamedValues } from './named-values.ts';

/** Multipart form data (RFC 7578). Of a file its name and size become the field; the file itself stays in the raw body. */
export function readMultipart(raw: RawArrival): Promise<Body> {
  const broken = (why: string): Body => ({
    ok: false,
    code: 'multipart',
    problem: `The multipart body is broken: ${why}.`,
  });
  return new Promise((resolve) => {
    const values = new NamedValues();
    const add = (name: string, value: string) => values.add(name, value);
    let parser: busboy.Busboy;
    try {
      parser = busboy({
        headers: { 'content-type': raw.contentType },
        defParamCharset: 'utf8',
        limits: { fields: 300, files: 20, parts: 320, fieldNameSize: 200, fieldSize: 100_000, headerPairs: 50 },
      });
    } catch (error) {
      resolve(broken(error instanceof Error ? error.message.toLowerCase() : 'its content type has no boundary'));
      return;
    }
    parser.on('field', (name, value) => add(name, value));
    parser.on('file', (name, stream, { filename }) => {
      let size = 0;
      stream.on('data', (chunk: Buffer) => {
        size += chunk.length;
      });
      stream.on('end', () => add(name, filename ? `${filename} (${size} bytes)` : ''));
      stream.on('error', () => {});
    });
    for (const event of ['partsLimit', 'filesLimit', 'fieldsLimit'] as const)
      parser.on(event, () =>
        resolve({
          ok: false,
          code: 'too-many',
          problem: 'It has more than 300 fields or 20 files. Send one lead at a time.',
        }),
      );
    parser.on('error', (error) =>
      resolve(broken(error instanceof Error ? error.message.toLowerCase() : 'it breaks off')),
    );
    parser.on('close', () =>
      resolve(
        values.size === 0
          ? { ok: false, code: 'empty', problem: 'There is nothing in it: send at least one field.' }
          : { ok: true, value: values.value() },
      ),
    );
    parser.end(Buffer.from(raw.body));
  });
}

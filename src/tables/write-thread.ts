/** The thread in which workbooks are made: a big one takes seconds, and nobody who rings in is to wait for it. */
import { parentPort } from 'node:worker_threads';
import { asXlsx } from './write.ts';

export type WriteSays = { bytes: Uint8Array } | { failed: string };

const port = parentPort!;
const rows: string[][] = [];
port.on('message', (more: string[][] | null) => {
  if (more) {
    rows.push(...more);
    return;
  }
  asXlsx(rows).then(
    (bytes) => port.postMessage({ bytes } satisfies WriteSays),
    (error: unknown) => port.postMessage({ failed: String(error) } satisfies WriteSays),
  );
});

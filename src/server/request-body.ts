import type { IncomingMessage } from 'node:http';

/** Reads a whole body of at most `most` bytes. */
export async function readRequestBody(
  request: IncomingMessage,
  most: number,
): Promise<Buffer | 'too-big' | 'broken-off'> {
  if (Number(request.headers['content-length'] ?? 0) > most) {
    request.resume();
    return 'too-big';
  }
  return new Promise((resolve) => {
    const chunks: Buffer[] = [];
    let size = 0;
    request.on('data', (chunk: Buffer) => {
      size += chunk.length;
      if (size > most) {
        chunks.length = 0;
        request.removeAllListeners('data');
        request.resume();
        resolve('too-big');
      } else chunks.push(chunk);
    });
    request.on('end', () => resolve(chunks.length === 1 ? chunks[0]! : Buffer.concat(chunks)));
    request.on('close', () => resolve('broken-off'));
    request.on('error', () => resolve('broken-off'));
  });
}

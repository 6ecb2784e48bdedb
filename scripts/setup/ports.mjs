import { createServer } from 'node:net';

export const isFree = (port) =>
  new Promise((resolve) => {
    const server = createServer().once('error', () => resolve(false));
    server.listen(port, '127.0.0.1', () => server.close(() => resolve(true)));
  });

export const freePort = () =>
  new Promise((resolve, reject) => {
    const server = createServer().once('error', reject);
    server.listen(0, '127.0.0.1', () => {
      const { port } = server.address();
      server.close(() => resolve(port));
    });
  });

/** The first of these that is free, or any. */
export async function choosePort(...wanted) {
  for (const port of wanted) if (port && (await isFree(port))) return port;
  return freePort();
}
